using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Formats;

namespace JollyAlmanac.Application.Queries;

/// <summary>Which lines of the school's history to show.</summary>
/// <param name="By">Only what that person did.</param>
/// <param name="About">Only lines about that.</param>
/// <param name="Words">Only lines that hold this; empty for all.</param>
/// <param name="Before">Lines before that one; null for the newest.</param>
public sealed record HistoryFilter(
    PersonId? By = null,
    HistorySubject? About = null,
    string Words = "",
    long? Before = null
);

/// <summary>The history of the whole school.</summary>
/// <param name="School">The school.</param>
/// <param name="Lines">A page of it, newest first, each with the calendar it is about; null for the school itself.</param>
/// <param name="HasMore">There are older lines.</param>
/// <param name="Doers">Those who did something.</param>
public sealed record SchoolHistory(
    School School,
    IReadOnlyList<(HistoryLine Line, string? Calendar)> Lines,
    bool HasMore,
    IReadOnlyList<(PersonId Id, string Name)> Doers
);

/// <summary>Reads what was done at the school.</summary>
public sealed class SchoolHistoryQuery(Gate gate)
{
    /// <summary>The history of the school as a table in CSV, newest first. For coordinators.</summary>
    public Outcome<byte[]> Export(Viewer viewer, HistoryFilter filter) =>
        Read(viewer, filter, MostExported)
            .Select(view =>
                CsvTable.Write(
                    ["when", "who", "did", "about", "calendar"],
                    view.Lines.Select(one =>
                        (IReadOnlyList<string>)
                            [
                                one
                                    .Line.At.InZone(view.School.Time.Zone)
                                    .ToString("uuuu-MM-dd HH:mm:ss", CultureInfo.InvariantCulture),
                                one.Line.Who,
                                one.Line.Summary,
                                one.Line.Subject.ToString().ToLowerInvariant(),
                                one.Calendar ?? "",
                            ]
                    )
                )
            );

    /// <summary>The most lines that are exported at once.</summary>
    public const int MostExported = 20_000;

    /// <summary>The history of the school, newest first. For coordinators.</summary>
    public Outcome<SchoolHistory> Read(Viewer viewer, HistoryFilter filter, int most = CalendarHistory.Page) =>
        gate.Read<SchoolHistory>(Operation.SeeSchoolHistory, viewer, at =>
        {
            var lines = at.Stores.History.OfSchool(
                filter.By,
                filter.About,
                filter.Words,
                filter.Before is > 0 ? filter.Before.Value : long.MaxValue,
                most + 1
            );
            return new Outcome<SchoolHistory>.Done(
                new SchoolHistory(at.School, [.. lines.Take(most)], lines.Count > most, at.Stores.History.Doers())
            );
        });
}
