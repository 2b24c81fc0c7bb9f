using System.Collections.Immutable;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Rosters;

/// <summary>A line of a table.</summary>
/// <param name="Line">The number it begins on, from 1.</param>
/// <param name="Fields">Its fields; fewer than there are columns where it is short.</param>
public sealed record TableRow(int Line, ImmutableArray<string> Fields);

/// <summary>A table as it came in: a line of names, and lines of fields.</summary>
/// <param name="File">What the file is called; empty for what was pasted.</param>
/// <param name="Columns">The names of its columns.</param>
/// <param name="Rows">Its lines.</param>
/// <param name="Remark">What was noticed in reading it, for people; empty for nothing.</param>
public sealed record Table(
    string File,
    ImmutableArray<string> Columns,
    ImmutableArray<TableRow> Rows,
    string Remark = ""
);

/// <summary>Somebody on a list that came in.</summary>
/// <param name="Source">What the list knows them by; empty where it has no such thing.</param>
/// <param name="Name">As people say it, the first name first; empty where none stands there.</param>
/// <param name="Email">Their address; null where none stands there.</param>
/// <param name="Role">What they are; null where the list does not say.</param>
/// <param name="Line">The line they stand on, from 1.</param>
public sealed record RosterPerson(string Source, string Name, EmailAddress? Email, SchoolRole? Role, int Line);

/// <summary>A group of a list that came in.</summary>
/// <param name="Source">What the list knows it by; empty for a group that is known by its name alone.</param>
/// <param name="Name">Its name.</param>
/// <param name="Kind">What it stands for.</param>
/// <param name="Members">Who is in it: places in the list's people.</param>
public sealed record RosterGroup(string Source, string Name, GroupKind Kind, ImmutableArray<int> Members);

/// <summary>A class of a list that came in.</summary>
/// <param name="Source">What the list knows it by.</param>
/// <param name="Title">What it is called.</param>
/// <param name="Code">Its code; empty for none.</param>
/// <param name="Department">Its subject; empty for none.</param>
/// <param name="Teachers">Who teaches it: places in the list's people, the first named first.</param>
/// <param name="Students">How many are on its list.</param>
public sealed record RosterClass(
    string Source,
    string Title,
    string Code,
    string Department,
    ImmutableArray<int> Teachers,
    int Students
);

/// <summary>A term of a list that came in.</summary>
/// <param name="Name">Its name.</param>
/// <param name="First">Its first day.</param>
/// <param name="Last">Its last day, inclusive.</param>
public sealed record RosterTerm(string Name, LocalDate First, LocalDate Last);

/// <summary>A line that is not taken in.</summary>
/// <param name="File">The file; empty for what was pasted, or where there is one alone.</param>
/// <param name="Line">The line, from 1.</param>
/// <param name="Reason">Why, for people.</param>
public sealed record RefusedLine(string File, int Line, string Reason);

/// <summary>A list of people and groups that came in, read but not yet looked at beside those who are known.</summary>
/// <param name="People">Each person once.</param>
/// <param name="Groups">The groups.</param>
/// <param name="Refused">What of it could not be read.</param>
/// <param name="IsWhole">
/// It tells of everybody: whom an earlier list told of and this one does not is gone. Else it adds.
/// </param>
/// <param name="Doubles">How many lines said again what another had said.</param>
public sealed record Roster(
    ImmutableArray<RosterPerson> People,
    ImmutableArray<RosterGroup> Groups,
    ImmutableArray<RefusedLine> Refused,
    bool IsWhole,
    int Doubles = 0
)
{
    /// <summary>The classes it tells of.</summary>
    public ImmutableArray<RosterClass> Classes { get; init; } = [];

    /// <summary>The terms it tells of, by their first day.</summary>
    public ImmutableArray<RosterTerm> Terms { get; init; } = [];

    /// <summary>What was noticed in reading it, for people.</summary>
    public ImmutableArray<string> Remarks { get; init; } = [];
}
