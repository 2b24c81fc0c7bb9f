using JollyAlmanac.Application.Calendars;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Application.Bulk;

/// <summary>What is done to several calendars at once.</summary>
public enum BulkAction
{
    /// <summary>Says who may open them without being named.</summary>
    Open,

    /// <summary>Gives somebody access.</summary>
    Give,

    /// <summary>Ends what somebody has of their own.</summary>
    End,

    /// <summary>Has a room made for each that has no join link, behind a link of its own that its series take.</summary>
    Rooms,

    /// <summary>Gives their join links one rule.</summary>
    Rule,

    /// <summary>Makes a feed of each.</summary>
    Feed,

    /// <summary>Makes an embed of each.</summary>
    Embed,

    /// <summary>Pauses their feeds and embeds.</summary>
    Pause,

    /// <summary>Resumes those that are paused.</summary>
    Resume,

    /// <summary>Puts a notice up on each.</summary>
    Notice,

    /// <summary>Moves classes to a department.</summary>
    Department,

    /// <summary>Archives them.</summary>
    Archive,

    /// <summary>Deletes them.</summary>
    Delete,
}

/// <summary>What the form that changes several calendars says, as typed.</summary>
/// <param name="Action">What is to be done.</param>
/// <param name="Slugs">The slugs of the calendars, each on a line of its own.</param>
/// <param name="Seen">What the review said would come of it, as <see cref="BulkReview.Seen"/>; empty before there was one.</param>
public sealed record BulkInput(BulkAction Action, string? Slugs = "", string? Seen = "")
{
    /// <summary>Who may open them.</summary>
    public OpenTo OpenTo { get; init; }

    /// <summary>Who is given access, or loses it: a name, an address, or a group's name.</summary>
    public string? Who { get; init; } = "";

    /// <summary>The level that they get, by its name.</summary>
    public string? Level { get; init; } = "";

    /// <summary>The last day of it, ISO; empty for as long as nobody ends it.</summary>
    public string? Until { get; init; } = "";

    /// <summary>The rule of their doors.</summary>
    public EntryRuleInput Entry { get; init; } = new();

    /// <summary>What a feed or embed shows.</summary>
    public AccessLevel Shows { get; init; } = AccessLevel.Outline;

    /// <summary>A feed stands on the class page.</summary>
    public bool Offered { get; init; }

    /// <summary>What the embeds are.</summary>
    public EmbedShape Shape { get; init; }

    /// <summary>The sites that may show the embeds, one a line.</summary>
    public string? Sites { get; init; } = "";

    /// <summary>What stands above the notice; empty for nothing.</summary>
    public string? Headline { get; init; } = "";

    /// <summary>What the notice says.</summary>
    public string? Text { get; init; } = "";

    /// <summary>The last day of the notice, ISO.</summary>
    public string? Last { get; init; } = "";

    /// <summary>The notice goes by e-mail, too; to each person once.</summary>
    public bool ByMail { get; init; }

    /// <summary>The slug of the department that they come to; empty for none.</summary>
    public string? Department { get; init; } = "";

    /// <summary>How many calendars are to be deleted, typed by who deletes them.</summary>
    public string? Count { get; init; } = "";

    /// <summary>The slugs, each once, in their order.</summary>
    public IReadOnlyList<string> Chosen =>
        [
            .. (Slugs ?? "")
                .Split((char[])['\n', '\r', ' '], StringSplitOptions.RemoveEmptyEntries)
                .Distinct(StringComparer.Ordinal),
        ];
}

/// <summary>What comes of it for one calendar.</summary>
/// <param name="Title">What it is called; its slug where the viewer may not know of it.</param>
/// <param name="Text">The slug that the form named it by.</param>
/// <param name="Result">What is done, or why nothing is, in words.</param>
/// <param name="IsChanged">Something is done.</param>
public sealed record BulkLine(string Title, string Text, string Result, bool IsChanged);

/// <summary>What comes of changing several calendars.</summary>
/// <param name="Lines">For each calendar what is done; in the order of the form.</param>
/// <param name="Summary">What is done to how many, after the person's name.</param>
public sealed record BulkReview(IReadOnlyList<BulkLine> Lines, string Summary)
{
    /// <summary>How many are changed.</summary>
    public int Changed => Lines.Count(line => line.IsChanged);

    /// <summary>Those that are left as they are, with why.</summary>
    public IEnumerable<BulkLine> Exceptions => Lines.Where(line => !line.IsChanged);

    /// <summary>The same for what comes to the same, and for nothing else: the SHA-256 of the lines, in hexadecimal digits.</summary>
    public string Seen =>
        Convert.ToHexStringLower(
            System.Security.Cryptography.SHA256.HashData(
                System.Text.Encoding.UTF8.GetBytes(
                    string.Join('\n', Lines.Select(line => $"{line.Text} {line.IsChanged} {line.Result}"))
                )
            )
        );
}

/// <summary>A calendar among those that several are chosen from.</summary>
/// <param name="Calendar">The calendar.</param>
/// <param name="Department">Its department's title; empty for none.</param>
/// <param name="Owner">Who answers for it; empty where they are gone.</param>
/// <param name="OpenTo">Who may open it.</param>
public sealed record BulkChoice(Calendar Calendar, string Department, string Owner, OpenTo OpenTo);

/// <summary>The calendars that the viewer may change, to choose several from.</summary>
/// <param name="School">The school.</param>
/// <param name="Found">Those that were found, by title.</param>
/// <param name="HasMore">There are more than are told.</param>
/// <param name="Departments">The departments to find them by, and to move them to.</param>
/// <param name="Last">What the viewer did last to several and may take back; null for nothing.</param>
public sealed record BulkChoices(
    Core.Terms.School School,
    IReadOnlyList<BulkChoice> Found,
    bool HasMore,
    IReadOnlyList<Calendar> Departments,
    string? Last
)
{
    /// <summary>What the provider of rooms is called; null where there is none.</summary>
    public string? Provider { get; init; }
}
