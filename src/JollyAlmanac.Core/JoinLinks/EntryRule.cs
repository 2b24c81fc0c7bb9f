using NodaTime;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>When the door of a link is open around its sessions. Hosts may enter at any time.</summary>
public abstract record EntryRule
{
    private EntryRule() { }

    /// <summary>The longest lead and lateness: four hours.</summary>
    public const int MostMinutes = 240;

    /// <summary>Opens 10 minutes before the start, shuts 20 minutes after it (common practice, no source).</summary>
    public static EntryRule Usual { get; } = new Around(10, 20);

    /// <summary>Around each session.</summary>
    /// <param name="Lead">Minutes before the start at which it opens.</param>
    /// <param name="Late">Minutes after the start at which it shuts to late-comers; null for the session's end.</param>
    public sealed record Around(int Lead, int? Late) : EntryRule;

    /// <summary>From midnight to midnight on days with a session.</summary>
    public sealed record AllDay : EntryRule;

    /// <summary>Always.</summary>
    public sealed record Always : EntryRule;

    /// <summary>Between two times of each class day, with sessions or without; around a session that is not between them, too.</summary>
    /// <param name="From">When it opens, by the school's clock.</param>
    /// <param name="To">When it shuts; later than <paramref name="From"/>.</param>
    public sealed record Hours(LocalTime From, LocalTime To) : EntryRule;

    /// <summary>In words: "opens 10 min before, shuts 20 min after the start".</summary>
    /// <example>
    /// <code>
    /// EntryRule.Usual.InWords // opens 10 min before, closes 20 min after the start
    /// </code>
    /// </example>
    public string InWords =>
        this switch
        {
            Around { Lead: var lead, Late: null } => $"opens {Before(lead)}, closes at the end",
            Around { Lead: var lead, Late: { } late } =>
                $"opens {Before(lead)}, closes {(late == 0 ? "at the start" : $"{Wording.Amount(late)} after the start")}",
            Hours { From: var from, To: var to } => $"open on class days, {Wording.Span(from, to)}",
            AllDay => "open all day on days with a session",
            _ => "always open",
        };

    private static string Before(int lead) => lead == 0 ? "at the start" : $"{Wording.Amount(lead)} before";
}
