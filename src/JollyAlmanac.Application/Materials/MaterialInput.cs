using JollyAlmanac.Core.Materials;
using JollyAlmanac.Storage.Files;
using NodaTime;

namespace JollyAlmanac.Application.Materials;

/// <summary>A file that somebody sends.</summary>
/// <param name="FileName">As the browser names it; only its last part is used.</param>
/// <param name="Length">In bytes.</param>
/// <param name="Open">Opens its bytes.</param>
public sealed record Upload(string FileName, long Length, Func<Stream> Open);

/// <summary>What the composer's form says of materials.</summary>
/// <param name="Files">Files to add.</param>
/// <param name="Title">What people read of the one link or the one file added; empty takes the file's name or the link's host.</param>
/// <param name="Address">A link to add; empty for none.</param>
/// <param name="ForSession">The key of the one session it is for, or its original start; empty for every session.</param>
/// <param name="PeopleOnly">Only for people of the calendar who are signed in.</param>
/// <param name="IsRecording">What is added is the recording of its session.</param>
/// <param name="TakeOff">Materials to take off.</param>
/// <param name="Only">The only ones that what is added is for; null for all.</param>
public sealed record MaterialInput(
    IReadOnlyList<Upload>? Files = null,
    string? Title = "",
    string? Address = "",
    string? ForSession = "",
    bool PeopleOnly = false,
    bool IsRecording = false,
    IReadOnlyList<long>? TakeOff = null,
    AudienceInput? Only = null
)
{
    /// <summary>Nothing to add or take off.</summary>
    public static MaterialInput None { get; } = new();
}

/// <summary>A material to be added: all but where it belongs.</summary>
internal sealed record MaterialDraft(
    string Title,
    MaterialContent Content,
    LocalDateTime? ForSession,
    MaterialAudience Audience
);

/// <summary>Reads a <see cref="MaterialInput"/>; bytes of good files are in the vault then.</summary>
internal sealed class MaterialReader(FileVault vault, UploadLimit limit, FileCheck check)
{
    public IReadOnlyList<MaterialDraft> Read(FormReader entry, MaterialInput input)
    {
        var title = entry.Line("MaterialTitle", input.Title, "The material's title", 200, needed: false);
        LocalDateTime? session = null;
        if (!string.IsNullOrEmpty(input.ForSession))
        {
            // The key of the session; the series is the one that the form is about.
            if (SessionKey.TryRead(input.ForSession, out var key))
                session = key.Original;
            else if (SessionKey.TryReadOriginal(input.ForSession, out var original))
                session = original;
            else
                entry.Wrong("MaterialForSession", "Choose the session from the list, or every session.");
        }

        var audience = input.PeopleOnly ? MaterialAudience.PeopleOfTheCalendar : MaterialAudience.Anyone;
        var drafts = new List<MaterialDraft>();
        var link = string.IsNullOrWhiteSpace(input.Address)
            ? null
            : entry.Address("MaterialAddress", input.Address, "The material's link");
        var files = (input.Files ?? []).Where(file => file.FileName.Length > 0).ToList();
        if (files.Count > UploadLimit.MostFiles)
            entry.Wrong(
                "MaterialFiles",
                $"These are {files.Count} files; {UploadLimit.MostFiles} may come in one go. Add the others afterwards."
            );
        var contents = files
            .Take(UploadLimit.MostFiles)
            .Select(file => Read(entry, file))
            .OfType<MaterialContent.StoredFile>()
            .ToList();
        if (link is not null)
            drafts.Add(
                new MaterialDraft(
                    title.Length > 0 ? title : link.IdnHost,
                    new MaterialContent.Link(link),
                    session,
                    audience
                )
            );
        // A title is for the one thing added; several things keep the names of their files.
        foreach (var content in contents)
            drafts.Add(
                new MaterialDraft(
                    title.Length > 0 && link is null && contents.Count == 1 ? title : content.Name,
                    content,
                    session,
                    audience
                )
            );
        return drafts;
    }

    private MaterialContent.StoredFile? Read(FormReader entry, Upload file)
    {
        var name = entry.Line(
            "MaterialFiles",
            Path.GetFileName(file.FileName.Replace('\\', '/')),
            "A file's name",
            150,
            needed: true
        );
        if (file.Length > limit.Bytes)
        {
            entry.Wrong(
                "MaterialFiles",
                $"“{name}” has {UploadLimit.InWords(file.Length)}; a file may have {UploadLimit.InWords(limit.Bytes)}. Make it smaller, or attach a link to it."
            );
            return null;
        }

        if (file.Length == 0)
        {
            entry.Wrong("MaterialFiles", $"“{name}” is empty. Attach it again once it has something in it.");
            return null;
        }

        using var stream = file.Open();
        using var memory = new MemoryStream((int)file.Length);
        stream.CopyTo(memory);
        memory.Position = 0;
        var checkedFile = check.Of(memory, name);
        if (checkedFile.Reason is { } reason)
        {
            entry.Wrong("MaterialFiles", reason);
            return null;
        }

        return entry.IsGood
            ? new MaterialContent.StoredFile(
                vault.Add(memory.GetBuffer().AsSpan(0, (int)memory.Length)),
                name,
                checkedFile.Kind!.MediaType,
                memory.Length
            )
            : null;
    }
}
