using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Importing;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Looking;
using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.Materials;
using JollyAlmanac.Application.People;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Application.Schools;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Storage;
using Microsoft.Extensions.DependencyInjection;
using NodaTime;

namespace JollyAlmanac.Application;

/// <summary>Puts the acts together over the data of one installation.</summary>
public static class AlmanacActs
{
    /// <summary>Takes a roster in from a shell, also while the almanac is served; see <see cref="BringIn.FromShell"/>.</summary>
    /// <exception cref="Core.Keeping.DataDirectoryException">The data directory cannot be used.</exception>
    public static BroughtIn BringInFromShell(string directory, IClock clock, string path, BringInChoices choices, bool isDry,
        Action<int, int>? progress = null)
    {
        using var database = AlmanacDatabase.Open(directory);
        return new BringIn(new Gate(database, clock), database, clock, Secrets.Of(directory)).FromShell(path, choices, isDry, progress);
    }

    /// <summary>Takes a file of sessions in from a shell, also while the almanac is served; see <see cref="ImportFile.FromShell"/>.</summary>
    /// <exception cref="Core.Keeping.DataDirectoryException">The data directory cannot be used.</exception>
    public static Outcome<ImportReview> ImportFromShell(string directory, IClock clock, IFileScanner scanner, string slug, string path,
        bool isDry)
    {
        using var database = AlmanacDatabase.Open(directory);
        return new ImportFile(new Gate(database, clock), database, clock, new FileVault(directory), UploadLimit.Usual,
            new FileCheck(scanner))
            .FromShell(slug, path, isDry);
    }

    /// <summary>Gives a calendar out from a shell, also while the almanac is served; see <see cref="ExportCalendar.Of"/>.</summary>
    /// <exception cref="Core.Keeping.DataDirectoryException">The data directory cannot be used.</exception>
    public static byte[]? ExportFromShell(string directory, IClock clock, string slug, LocalDate? from, LocalDate? to,
        ExportFormat format, Uri? root)
    {
        using var database = AlmanacDatabase.Open(directory);
        return database.Read(stores => ExportCalendar.Of(stores, slug, from, to, format, root, clock.GetCurrentInstant()));
    }

    /// <summary>Adds every act and view. A <see cref="RoomProviders"/>, an <see cref="IMailCarrier"/>, an <see cref="IMailbox"/>, an <see cref="IFileScanner"/> and an
    /// <see cref="AlmanacAddress"/> are to be added beside them.</summary>
    /// <param name="services">Where to.</param>
    /// <param name="directory">The data directory; made where it is missing.</param>
    /// <param name="clock">What the time is.</param>
    /// <param name="uploads">How large a file may be.</param>
    /// <param name="passwordRounds">How often passwords are hashed; fewer only in tests.</param>
    /// <exception cref="Core.Keeping.DataDirectoryException">The data directory cannot be used.</exception>
    public static IServiceCollection AddAlmanac(this IServiceCollection services, string directory, IClock clock, UploadLimit uploads,
        int passwordRounds = Passwords.UsualRounds)
    {
        var database = AlmanacDatabase.Open(directory);
        // Given as a function, so that it is closed with the server.
        services.AddSingleton(_ => database).AddSingleton(clock).AddSingleton(uploads).AddSingleton(new FileVault(directory))
            .AddSingleton(Secrets.Of(directory));
        services.AddSingleton<Gate>().AddSingleton(new Passwords(passwordRounds)).AddSingleton<SignIn.SignIn>().AddSingleton<LookAs>();
        services.AddSingleton<KeepPeople>().AddSingleton<KeepGroups>().AddSingleton<BringIn>().AddSingleton<Invitations>()
            .AddSingleton<AddRequests>()
            .AddSingleton<Absences>()
            .AddSingleton<Accounts>().AddSingleton<Share>().AddSingleton<Post>().AddSingleton<SessionLetters>()
            .AddSingleton<ReadAnswers>().AddSingleton<SessionsByMail>().AddSingleton<Reminders>().AddSingleton<Outbox>();
        services.AddSingleton<CreateSchool>().AddSingleton<SetSchoolTime>().AddSingleton<SetHabits>().AddSingleton<AddPeople>()
            .AddSingleton<RollOver>();
        services.AddSingleton<SaveCalendar>().AddSingleton<ComposeSeries>().AddSingleton<TakeOffSeries>().AddSingleton<QuickAdd>()
            .AddSingleton<ImportFile>().AddSingleton<FetchFile>();
        services.AddSingleton<ChangeSession>().AddSingleton<LeaveOut>().AddSingleton<GoBack>();
        services.AddSingleton<Doors>().AddSingleton<KeepLinks>().AddSingleton<WorkDoor>().AddSingleton<TestLink>()
            .AddSingleton<Switchboard>();
        services.AddSingleton<MendLink>().AddSingleton<JoinCards>().AddSingleton<IRoomNews, RoomNews>()
            .AddSingleton(all => (RoomNews)all.GetRequiredService<IRoomNews>());
        return services.AddSingleton<Outlets>().AddSingleton<GiveCopy>().AddSingleton<OwnFeeds>().AddSingleton<KeepNotices>(
            ).AddSingleton<ReadFeed>(
            ).AddSingleton<ReadEmbed>().AddSingleton<ReadChanges>().AddSingleton<Look>().AddSingleton<FileCheck>().AddSingleton<SendFiles>()
            .AddSingleton<KeepMaterials>();
    }
}
