using System.Security.Cryptography;
using JollyAlmanac.Core.Data;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Files;

namespace JollyAlmanac.Application.Data;

/// <summary>Looks through all data of an installation, without changing any: also while the almanac serves.</summary>
public static class DataCheck
{
    private const int MostTold = 50;

    /// <summary>What is wrong, a sentence each, at most fifty; none where all is well.</summary>
    /// <param name="directory">The data directory.</param>
    /// <exception cref="DataDirectoryException">There is no almanac's data there, or of another version.</exception>
    public static IReadOnlyList<string> Of(string directory)
    {
        using var database = AlmanacDatabase.OpenToLook(directory);
        var problems = new List<string>();
        problems.AddRange(database.Faults());
        // What is broken as a file cannot be read any further.
        if (problems.Count == 0)
            database.Read(stores => Read(stores, directory, problems));
        return [.. problems.Take(MostTold)];
    }

    private static int Read(Stores stores, string directory, List<string> problems)
    {
        if (stores.School.Find() is null)
            return 0;
        var vault = new FileVault(directory);
        var secrets = File.Exists(Path.Combine(directory, Secrets.FileName)) ? Secrets.Of(directory) : null;
        if (secrets is null)
            problems.Add(
                $"{Secrets.FileName} is missing: no feed, embed or guest link can be found by its address any more."
            );
        foreach (var series in stores.Series.All())
            _ = series.Count();
        foreach (var link in stores.JoinLinks.All())
            _ = stores.JoinLinks.TargetOf(link.Id);
        foreach (var calendar in stores.Calendars.Every())
        {
            _ = stores.Calendars.GrantsOf(calendar.Id);
            foreach (var publication in stores.Publications.Of(calendar.Id))
                if (
                    secrets is not null
                    && stores.Publications.Find(publication.Kind, Secrets.HashOf(secrets.TokenOf(publication)))?.Id
                        != publication.Id
                )
                    problems.Add(
                        $"The address of {publication.Name} on {calendar.Title} does not belong to {Secrets.FileName}. Renew it under Publishing."
                    );
            foreach (
                var file in stores
                    .Materials.Of(calendar.Id)
                    .SelectMany(material =>
                        stores
                            .Materials.EditionsOf(material.Id)
                            .Select(one => one.Content)
                            .Prepend(material.Content)
                            .Select(content => (material.Title, Content: content as MaterialContent.StoredFile))
                    )
                    .Where(one => one.Content is not null)
            )
                if (Fault(vault.PathOf(file.Content!.Hash), file.Content) is { } fault)
                    problems.Add($"The file of {file.Title} on {calendar.Title} {fault}.");
        }

        problems.AddRange(stores.Unreadable.Select(one => $"{one.Kind} {one.Name} cannot be read: {one.Reason}."));
        return 0;
    }

    private static string? Fault(string path, MaterialContent.StoredFile file)
    {
        if (!File.Exists(path))
            return "is missing";
        using var stream = File.OpenRead(path);
        return stream.Length != file.Size ? "has another size than it had"
            : Convert.ToHexStringLower(SHA256.HashData(stream)) != file.Hash ? "holds other bytes than it did"
            : null;
    }
}
