using System.Text.Json.Serialization;
using JollyAlmanac.Application.Sharing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using NodaTime.Text;

namespace JollyAlmanac.Application.Bulk;

/// <summary>A grant as a line of history keeps it.</summary>
/// <param name="Key">Who, as <see cref="Share.KeyOf"/> has it.</param>
/// <param name="Level">The level.</param>
/// <param name="Until">The last day, ISO; null for no end.</param>
internal sealed record GrantState(string Key, AccessLevel Level, string? Until)
{
    public static GrantState Of(Grant grant) =>
        new(Share.KeyOf(grant.To), grant.Level, grant.Until is { } until ? LocalDatePattern.Iso.Format(until) : null);

    public Grant On(CalendarId calendar, Grantee to) =>
        new(calendar, to, Level) { Until = Until is null ? null : LocalDatePattern.Iso.Parse(Until).Value };
}

/// <summary>What was done to one calendar, so that it can be taken back where nobody changed it since.</summary>
/// <param name="Calendar">The calendar's id.</param>
[JsonDerivedType(typeof(Access), "access")]
[JsonDerivedType(typeof(Rule), "rule")]
[JsonDerivedType(typeof(MadeLink), "link")]
[JsonDerivedType(typeof(Publication), "publication")]
[JsonDerivedType(typeof(Paused), "paused")]
[JsonDerivedType(typeof(Notice), "notice")]
[JsonDerivedType(typeof(Department), "department")]
[JsonDerivedType(typeof(Use), "use")]
internal abstract record BulkStep(long Calendar)
{
    /// <summary>Who has access, before and after; and links of which somebody became host, or is host no longer.</summary>
    public sealed record Access(
        long Calendar,
        List<GrantState> Before,
        List<GrantState> After,
        List<long> HostsBefore,
        List<long> HostsAfter,
        long Person
    ) : BulkStep(Calendar);

    /// <summary>A join link's rule, as its text is stored.</summary>
    public sealed record Rule(long Calendar, long Link, string Before, string After) : BulkStep(Calendar);

    /// <summary>A join link that was made; and the series that took it, with the version that they have since.</summary>
    public sealed record MadeLink(long Calendar, long Id, List<SeriesVersion> Series) : BulkStep(Calendar);

    /// <summary>A feed or embed that was made.</summary>
    public sealed record Publication(long Calendar, long Id) : BulkStep(Calendar);

    /// <summary>A feed or embed that was paused, or resumed.</summary>
    public sealed record Paused(long Calendar, long Id, bool After, int Version) : BulkStep(Calendar);

    /// <summary>A notice that was put up.</summary>
    public sealed record Notice(long Calendar, long Id, int Version) : BulkStep(Calendar);

    /// <summary>The department it had, and has; null for none.</summary>
    public sealed record Department(long Calendar, long? Before, long? After) : BulkStep(Calendar);

    /// <summary>It was archived or deleted, and has that version since.</summary>
    public sealed record Use(long Calendar, int Version) : BulkStep(Calendar);
}

/// <summary>A series as it stood after it took a link.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Version">Its version.</param>
internal sealed record SeriesVersion(long Id, int Version);
