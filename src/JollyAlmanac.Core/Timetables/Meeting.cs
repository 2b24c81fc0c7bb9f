using System.Collections.Immutable;

namespace JollyAlmanac.Core.Timetables;

/// <summary>When a class meets, as a timetable has it: texts.</summary>
/// <param name="Days">Its days: "MWF", "Monday", "Day 2"; empty for a class that does not say when it meets.</param>
/// <param name="Periods">Its periods: "3", "P1-P2"; empty where it has a time.</param>
/// <param name="Clock">A start and an end; empty where it has periods.</param>
public sealed record MeetingTimes(string Days, string Periods, string Clock)
{
    /// <summary>The first day; empty for that of the term.</summary>
    public string From { get; init; } = "";

    /// <summary>The last day; empty for that of the term.</summary>
    public string Until { get; init; } = "";

    /// <summary>"A" or "B", where it meets every second week; empty for every week.</summary>
    public string Week { get; init; } = "";
}

/// <summary>One row of a timetable, or one cell of a grid: a class that meets.</summary>
/// <param name="Class">What the class is called.</param>
/// <param name="Times">When it meets.</param>
/// <param name="File">The file and sheet it stands in.</param>
/// <param name="Line">The row, from 1.</param>
public sealed record Meeting(string Class, MeetingTimes Times, string File, int Line)
{
    /// <summary>The department; empty where the timetable does not say.</summary>
    public string Department { get; init; } = "";

    /// <summary>The teachers, by name, address or code, as they are written; empty for none.</summary>
    public ImmutableArray<string> Teachers { get; init; } = [];

    /// <summary>The room; empty for none.</summary>
    public string Room { get; init; } = "";

    /// <summary>The address of an online room; empty for none.</summary>
    public string Link { get; init; } = "";
}

/// <summary>What was read of a sheet of meetings.</summary>
/// <param name="Meetings">The meetings, in the order of the sheet.</param>
/// <param name="Refused">The rows that are none, and why.</param>
public sealed record Timetable(ImmutableArray<Meeting> Meetings, ImmutableArray<Rosters.RefusedLine> Refused);
