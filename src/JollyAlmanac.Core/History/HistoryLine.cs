using NodaTime;

namespace JollyAlmanac.Core.History;

/// <summary>What a change was about.</summary>
public enum HistorySubject
{
#pragma warning disable CS1591 // The names say it.
    School,
    Person,
    Group,
    Calendar,
    Series,
    JoinLink,
    Outlet,
    Notice,
    Material,
#pragma warning restore CS1591
}

/// <summary>One change as people read it.</summary>
/// <param name="At">When.</param>
/// <param name="Who">The name of who did it.</param>
/// <param name="Subject">What it was about.</param>
/// <param name="SubjectId">Which.</param>
/// <param name="Act">The name of the act.</param>
/// <param name="Summary">In one plain sentence, without the name.</param>
/// <param name="Id">Its number; a later line has a higher one.</param>
/// <param name="CanRestore">It tells the states before and after, so that one can go back to them.</param>
public sealed record HistoryLine(
    Instant At,
    string Who,
    HistorySubject Subject,
    long SubjectId,
    string Act,
    string Summary,
    long Id,
    bool CanRestore
);
