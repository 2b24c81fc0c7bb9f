using System.Globalization;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Application.Joining;

/// <summary>What a form says of a join link, as typed.</summary>
/// <param name="Name">What its keepers call it.</param>
/// <param name="Code">A short address chosen by hand; empty for one that is made, or to keep the one it has.</param>
/// <param name="Room">What is behind it.</param>
/// <param name="Entry">When its door is open.</param>
/// <param name="Audience">Who may enter.</param>
/// <param name="Reach">How far the room reaches.</param>
/// <param name="Notes">A remark.</param>
/// <param name="Version">The version the form was made from; 0 for a new link.</param>
public sealed record LinkInput(
    string? Name = "",
    string? Code = "",
    RoomInput? Room = null,
    EntryRuleInput? Entry = null,
    EntryAudienceInput? Audience = null,
    LinkReachInput? Reach = null,
    string? Notes = "",
    int Version = 0
)
{
    /// <summary>What is behind it.</summary>
    public RoomInput Room { get; init; } = Room ?? new();

    /// <summary>When its door is open.</summary>
    public EntryRuleInput Entry { get; init; } = Entry ?? new();

    /// <summary>Who may enter.</summary>
    public EntryAudienceInput Audience { get; init; } = Audience ?? new();

    /// <summary>How far the room reaches.</summary>
    public LinkReachInput Reach { get; init; } = Reach ?? new();

    /// <summary>What to do, for whoever enters.</summary>
    public string? WhatToDo { get; init; } = "";

    /// <summary>The form of a link; the room's address and secrets stay out.</summary>
    public static LinkInput Of(JoinLink link) =>
        new(
            link.Name,
            Room: new RoomInput(Renews: link.RenewsAfterEach, IsPersonal: link.IsPersonal, Ticked: link.Ticked),
            Entry: EntryRuleInput.Of(link.Entry) with
            {
                WaitsForHost = link.WaitsForHost,
            },
            Audience: new EntryAudienceInput(
                link.Audience.ToString().ToLowerInvariant(),
                link.EntryWord,
                link.ShowsDetails,
                [.. link.Hosts.Select(host => host.Value.ToString(CultureInfo.InvariantCulture))],
                AudienceInput.TicksOf(link.OnlyFor)
            ),
            Reach: LinkReachInput.Of(link.Reach),
            Notes: link.Notes,
            Version: link.Version
        )
        {
            WhatToDo = link.WhatToDo,
        };
}

/// <summary>What a form says of the room behind a link.</summary>
/// <param name="Address">The room's address; empty to keep the room.</param>
/// <param name="MeetingId">The meeting id; read only with an address.</param>
/// <param name="Passcode">The passcode; read only with an address.</param>
/// <param name="DialIn">Telephone numbers, a line each; read only with an address.</param>
/// <param name="MakeRoom">The provider makes a room, instead of an address.</param>
/// <param name="Renews">Each session gets a room of its own.</param>
/// <param name="IsPersonal">It is somebody's personal room.</param>
/// <param name="Ticked">Lines of the room checklist that are ticked.</param>
public sealed record RoomInput(
    string? Address = "",
    string? MeetingId = "",
    string? Passcode = "",
    string? DialIn = "",
    bool MakeRoom = false,
    bool Renews = false,
    bool IsPersonal = false,
    IReadOnlyList<string>? Ticked = null
)
{
    /// <summary>The addresses of further rooms that take turns with it, a line each; empty to keep those there are.</summary>
    public string? Turn { get; init; } = "";

    /// <summary>No further room takes turns with it any more.</summary>
    public bool EndsTurn { get; init; }
}

/// <summary>What a form says of when a door is open.</summary>
/// <param name="Opens">"around", "allday", "always" or "hours".</param>
/// <param name="Lead">Minutes before the start.</param>
/// <param name="Late">Minutes after it; <see cref="AtTheEnd"/> or empty for the session's end.</param>
public sealed record EntryRuleInput(string? Opens = "around", string? Lead = "10", string? Late = "20")
{
    /// <summary>
    /// The lateness of a door that shuts at the end, as a form says it; an empty field is what a browser that knows none sends.
    /// </summary>
    public const string AtTheEnd = "end";

    /// <summary>When a door with hours opens on class days.</summary>
    public string? HoursFrom { get; init; } = "8:00";

    /// <summary>When it shuts.</summary>
    public string? HoursTo { get; init; } = "18:00";

    /// <summary>It lets the class in once a host is in.</summary>
    public bool WaitsForHost { get; init; }

    /// <summary>A rule as a form has it.</summary>
    public static EntryRuleInput Of(EntryRule rule) =>
        rule switch
        {
            EntryRule.Around around => new(
                "around",
                Text(around.Lead),
                around.Late is { } late ? Text(late) : AtTheEnd
            ),
            EntryRule.AllDay => new("allday"),
            EntryRule.Hours hours => new("hours")
            {
                HoursFrom = hours.From.ToString("HH:mm", CultureInfo.InvariantCulture),
                HoursTo = hours.To.ToString("HH:mm", CultureInfo.InvariantCulture),
            },
            _ => new("always"),
        };

    private static string Text(int number) => number.ToString(CultureInfo.InvariantCulture);
}

/// <summary>What a form says of who may enter.</summary>
/// <param name="Audience">An <see cref="EntryAudience"/> by its name.</param>
/// <param name="EntryWord">A word that opens the door like a sign-in.</param>
/// <param name="ShowsDetails">An open door shows a page with the details.</param>
/// <param name="Hosts">Ids of people who are hosts.</param>
/// <param name="Only">The only groups and people who may enter, as <see cref="AudienceInput"/> has them.</param>
/// <param name="OnlyOthers">E-mail addresses of others who may.</param>
public sealed record EntryAudienceInput(
    string? Audience = "anyone",
    string? EntryWord = "",
    bool ShowsDetails = false,
    IReadOnlyList<string>? Hosts = null,
    IReadOnlyList<string>? Only = null,
    string? OnlyOthers = ""
);

/// <summary>What a form says of how far a room reaches.</summary>
/// <param name="Reach">"", "until", "days" or "sessions".</param>
/// <param name="ReachDay">The last day, ISO.</param>
/// <param name="ReachCount">How many days or sessions.</param>
public sealed record LinkReachInput(string? Reach = "", string? ReachDay = "", string? ReachCount = "")
{
    /// <summary>A reach as a form has it.</summary>
    public static LinkReachInput Of(LinkReach reach) =>
        reach switch
        {
            LinkReach.Until until => new("until", NodaTime.Text.LocalDatePattern.Iso.Format(until.Day)),
            LinkReach.Days days => new("days", "", days.Count.ToString(CultureInfo.InvariantCulture)),
            LinkReach.Sessions sessions => new("sessions", "", sessions.Count.ToString(CultureInfo.InvariantCulture)),
            _ => new(),
        };
}

/// <summary>Reads what forms say of links and doors.</summary>
internal static class LinkReader
{
    /// <summary>A checklist for rooms, a line each: each line once, 20 at most.</summary>
    public static IReadOnlyList<string> ReadChecklist(FormReader entry, string? lines)
    {
        var names = entry
            .Lines("Checklist", lines, "The checklist", 2000)
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
            .Distinct()
            .ToList();
        if (names.Count > 20)
            entry.Wrong("Checklist", $"These are {names.Count} lines; a checklist may have 20.");
        if (names.FirstOrDefault(name => name.Length > 80) is { } longest)
            entry.Wrong("Checklist", $"“{longest[..40]}…” is longer than 80 characters. Shorten it.");
        return names;
    }

    /// <summary>A rule for a door, or null where something is wrong.</summary>
    public static EntryRule? ReadRule(FormReader entry, EntryRuleInput input)
    {
        switch (input.Opens)
        {
            case "allday":
                return new EntryRule.AllDay();
            case "always":
                return new EntryRule.Always();
            case "hours":
                var (from, to) = (
                    entry.Time("HoursFrom", input.HoursFrom, "When it opens"),
                    entry.Time("HoursTo", input.HoursTo, "When it closes")
                );
                if (to <= from)
                    entry.Wrong("HoursTo", "It closes before it opens. Give a later time.");
                return from < to ? new EntryRule.Hours(from.Value, to.Value) : null;
            case "around":
                var before = entry.Number("Lead", input.Lead, "The minutes before the start", 0, EntryRule.MostMinutes);
                var after =
                    string.IsNullOrWhiteSpace(input.Late)
                    || input.Late.Trim().Equals(EntryRuleInput.AtTheEnd, StringComparison.OrdinalIgnoreCase)
                        ? null
                        : entry.Number("Late", input.Late, "The minutes after the start", 0, EntryRule.MostMinutes);
                return before is null || entry.Has("Late") ? null : new EntryRule.Around(before.Value, after);
            default:
                entry.Wrong("Opens", "Choose when the door is open.");
                return null;
        }
    }

    /// <summary>The link of the form, on what the form does not say; the entry tells what is wrong.</summary>
    /// <param name="entry">Gathers what is wrong.</param>
    /// <param name="input">The form.</param>
    /// <param name="link">The link as it is, or a fresh one.</param>
    /// <param name="mayHost">The people who may be hosts.</param>
    /// <param name="checklist">The school's checklist.</param>
    /// <param name="canRenew">A provider can make rooms.</param>
    public static JoinLink Read(
        FormReader entry,
        LinkInput input,
        JoinLink link,
        IReadOnlyCollection<PersonId> mayHost,
        IReadOnlyList<string> checklist,
        bool canRenew
    )
    {
        var name = entry.Line("Name", input.Name, "The link's name", 80, needed: true);
        var code = link.Code;
        if (!string.IsNullOrWhiteSpace(input.Code))
        {
            var (chosen, reason) = JoinCode.Read(input.Code);
            if (reason is not null)
                entry.Wrong("Code", reason);
            code = chosen ?? code;
        }

        var rule = ReadRule(entry, input.Entry);
        if (
            !Enum.TryParse<EntryAudience>(input.Audience.Audience, ignoreCase: true, out var audience)
            || !Enum.IsDefined(audience)
        )
            entry.Wrong("Audience", "Choose who may enter.");
        var word = entry.Line("EntryWord", input.Audience.EntryWord, "The entry word", 40, needed: false);
        if (word.Length is > 0 and < 4)
            entry.Wrong(
                "EntryWord",
                "The entry word has fewer than 4 characters. Take a longer one, so that nobody guesses it."
            );
        if (input.Entry.WaitsForHost && rule is (EntryRule.Always or EntryRule.Hours))
            entry.Wrong(
                "WaitsForHost",
                "A door that is open without a session has no host to wait for. Choose around each session, or take this off."
            );
        if (input.Room.Renews && !canRenew)
            entry.Wrong(
                "Renews",
                "There is no provider here that makes rooms by itself, so a link can be renewed by hand only."
            );
        return link with
        {
            Name = name,
            Code = code,
            Entry = rule ?? link.Entry,
            Audience = audience,
            EntryWord = audience == EntryAudience.Anyone ? "" : word,
            ShowsDetails = input.Audience.ShowsDetails,
            RenewsAfterEach = input.Room.Renews,
            Reach = ReadReach(entry, input.Reach) ?? link.Reach,
            IsPersonal = input.Room.IsPersonal,
            WaitsForHost = input.Entry.WaitsForHost,
            WhatToDo = entry.Lines("WhatToDo", input.WhatToDo, "What to do", JoinLink.LongestWhatToDo),
            Notes = entry.Lines("Notes", input.Notes, "The remark", 1000),
            Hosts =
            [
                .. (input.Audience.Hosts ?? [])
                    .Select(id =>
                        long.TryParse(id, NumberStyles.None, CultureInfo.InvariantCulture, out var value)
                            ? new PersonId(value)
                            : default
                    )
                    .Where(mayHost.Contains)
                    .Distinct(),
            ],
            Ticked = [.. checklist.Where(line => input.Room.Ticked?.Contains(line) == true)],
        };
    }

    /// <summary>The room that the form names; null where it names none or something is wrong with it.</summary>
    public static JoinTarget? ReadTarget(FormReader entry, RoomInput input)
    {
        if (string.IsNullOrWhiteSpace(input.Address))
        {
            if (!string.IsNullOrWhiteSpace(input.MeetingId + input.Passcode + input.DialIn))
                entry.Wrong(
                    "Address",
                    "A meeting id, a passcode and telephone numbers belong to a room. Paste its address beside them."
                );
            return null;
        }

        var (target, reason) = JoinTarget.Read(input.Address);
        if (target is null)
        {
            entry.Wrong("Address", reason!);
            return null;
        }

        var numbers = entry
            .Lines("DialIn", input.DialIn, "The telephone numbers", 600)
            .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
        if (numbers.Length > 10)
            entry.Wrong("DialIn", $"These are {numbers.Length} telephone numbers; a link may have 10.");
        return target with
        {
            MeetingId = entry.Line("MeetingId", input.MeetingId, "The meeting id", 60, needed: false),
            Passcode = entry.Line("Passcode", input.Passcode, "The passcode", 60, needed: false),
            DialIn = [.. numbers],
        };
    }

    /// <summary>The most rooms that take turns with the link's own.</summary>
    public const int MostInTurn = 100;

    /// <summary>The further rooms of a form; null where they stay as they are.</summary>
    public static IReadOnlyList<JoinTarget>? ReadTurn(FormReader entry, RoomInput input)
    {
        var lines = (input.Turn ?? "").Split(
            '\n',
            StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries
        );
        if (lines.Length == 0)
            return input.EndsTurn ? [] : null;
        if (lines.Length > MostInTurn)
        {
            entry.Wrong("Turn", $"These are {lines.Length} rooms; {MostInTurn} may take turns.");
            return null;
        }

        var rooms = new List<JoinTarget>();
        foreach (var (at, line) in lines.Index())
        {
            var (target, reason) = JoinTarget.Read(line);
            if (target is null)
                entry.Wrong("Turn", $"Line {at + 1}: {reason}");
            else if (rooms.Exists(room => room.Address == target.Address))
                entry.Wrong("Turn", $"Line {at + 1} is the same room as one before. Each needs an address of its own.");
            else
                rooms.Add(target);
        }

        if (input.Renews)
            entry.Wrong("Turn", "Each session gets a room of its own already. Take that off, or leave this empty.");
        return rooms;
    }

    private static LinkReach? ReadReach(FormReader entry, LinkReachInput input)
    {
        switch (input.Reach)
        {
            case null or "":
                return new LinkReach.Unlimited();
            case "until":
                return entry.Day("ReachDay", input.ReachDay, "The last day of the room") is { } day
                    ? new LinkReach.Until(day)
                    : null;
            case "days":
                return entry.Number("ReachCount", input.ReachCount, "The number of days", 1, 3650) is { } days
                    ? new LinkReach.Days(days)
                    : null;
            case "sessions":
                return entry.Number("ReachCount", input.ReachCount, "The number of sessions", 1, 1000) is { } sessions
                    ? new LinkReach.Sessions(sessions)
                    : null;
            default:
                entry.Wrong("Reach", "Choose how far the room reaches.");
                return null;
        }
    }
}
