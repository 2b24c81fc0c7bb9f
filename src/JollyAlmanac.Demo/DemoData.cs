using System.Globalization;
using System.Text;
using JollyAlmanac.Application;
using JollyAlmanac.Application.Data;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Queries;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.People;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace JollyAlmanac.Demo;

/// <summary>The demo's data directory: made once, marked as a demo, and never mistaken for a school's.</summary>
public static class DemoData
{
    private const string Mark = "this-is-a-demo.txt";
    private const string Begun = "This demo is being made. Where it was broken off, it is made anew.\n";

    /// <summary>
    /// Refuses a directory that holds a school which is no demo; one whose making was broken off is cleared, to be made anew.
    /// </summary>
    /// <exception cref="DataDirectoryException">It does.</exception>
    public static void Check(string directory)
    {
        if (DataDirectory.HoldsData(directory) && !File.Exists(Path.Combine(directory, Mark)))
            throw new DataDirectoryException(
                $"The data in {directory} is not a demo's. Serve it with ./almanac serve, or choose another directory with --data."
            );
        if (File.Exists(Path.Combine(directory, Mark)) && File.ReadAllText(Path.Combine(directory, Mark)) == Begun)
            Remove(directory);
    }

    /// <summary>Removes a demo's data, and nothing else.</summary>
    /// <exception cref="DataDirectoryException">The directory holds a school which is no demo.</exception>
    public static void Clear(string directory)
    {
        Check(directory);
        if (File.Exists(Path.Combine(directory, Mark)))
            Remove(directory);
    }

    private static void Remove(string directory)
    {
        DataDirectory.RemoveData(directory);
        File.Delete(Path.Combine(directory, Mark));
    }

    /// <summary>Tells the demo's story into a directory that has none.</summary>
    /// <returns>Whether it was told now.</returns>
    public static bool Ensure(IServiceProvider services, string directory, DemoClock clock)
    {
        var mark = Path.Combine(directory, Mark);
        if (services.GetRequiredService<CreateSchool>().IsDone)
            return false;
        File.WriteAllText(mark, Begun);
        DemoStory.Tell(services, clock);
        File.WriteAllText(
            mark,
            "Invented people of an invented school. ./almanac demo --fresh makes this directory anew.\n"
        );
        // Telling takes some 20 MB for once, which serving never needs again.
        GC.Collect(2, GCCollectionMode.Aggressive, blocking: true, compacting: true);
        return true;
    }

    /// <summary>What is printed once the demo serves: addresses and sign-ins, each on a line of its own.</summary>
    public static string Greeting(IServiceProvider services, Uri root, bool isNew, LocalDateTime moment)
    {
        var (schoolQuery, termSheetQuery) = (
            services.GetRequiredService<SchoolQuery>(),
            services.GetRequiredService<TermSheetQuery>()
        );
        var publications = services.GetRequiredService<Publications>();
        var coordinator = schoolQuery.FindPerson(new EmailAddress(DemoStory.Coordinator.Email))!;
        var code = termSheetQuery.Read(coordinator, DemoStory.ShownClass, null) is { Links: [var link, ..] }
            ? link.Code
            : (Core.JoinLinks.JoinCode?)null;
        var shown = publications.Of(coordinator, DemoStory.ShownClass)
            is Outcome<PublishingView>.Done { Value: var done }
            ? done
            : null;
        var text = new StringBuilder();
        text.AppendLine(CultureInfo.InvariantCulture, $"Jolly Almanac is at {root}");
        text.AppendLine(
            CultureInfo.InvariantCulture,
            $"Skerry Isles School, {moment:uuuu-MM-dd HH:mm} in {DemoStory.Zone}{(isNew ? ", made just now" : "")}"
        );
        text.AppendLine();
        foreach (var (name, kind, email) in DemoStory.SignIns.People)
            text.AppendLine(
                CultureInfo.InvariantCulture,
                $"sign in       {email}  {DemoStory.SignIns.Password}  ({name}, {kind})"
            );
        text.AppendLine(CultureInfo.InvariantCulture, $"class page    {root}c/{DemoStory.ShownClass}");
        text.AppendLine(CultureInfo.InvariantCulture, $"open to anyone {root}c/{DemoStory.OpenClass}");
        if (shown?.Feeds is [var feed, ..])
            text.AppendLine(CultureInfo.InvariantCulture, $"feed          {root}feeds/{feed.Token}.ics");
        if (shown?.Embeds is [var embed, ..])
            text.AppendLine(CultureInfo.InvariantCulture, $"embed         {root}embed/{embed.Token}");
        if (code is not null)
            text.AppendLine(CultureInfo.InvariantCulture, $"short address {root}in/{code}");
        text.AppendLine();
        text.Append("Ctrl-C stops it.");
        return text.ToString();
    }
}
