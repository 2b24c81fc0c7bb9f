using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage.Calendars;
using NodaTime;

namespace JollyAlmanac.Application.Composing;

/// <summary>A range of days to be left out, as typed.</summary>
/// <param name="First">Its first day.</param>
/// <param name="Last">Its last day; empty for the first one alone.</param>
/// <param name="Series">The series; empty for every one of the calendar that the person may change.</param>
/// <param name="Revision">The calendar's revision that the form was made from.</param>
public sealed record RangeInput(string? First, string? Last, string? Series = "", int Revision = 0);

/// <summary>Leaves all sessions of a range of days out in one go, and brings them back in one go.</summary>
public sealed class ExcludeRange(Gate gate)
{
    /// <summary>The longest range, in days.</summary>
    public const int Longest = 400;

    /// <summary>Leaves out what is held in the range.</summary>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> Do(Viewer viewer, Slug slug, RangeInput input) =>
        Set(Operation.ExcludeRange, viewer, slug, input, meets: false);

    /// <summary>Brings back what was left out by hand in the range; what no-class days take out stays out.</summary>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> BringBack(Viewer viewer, Slug slug, RangeInput input) =>
        Set(Operation.RestoreRange, viewer, slug, input, meets: true);

    private Outcome<string> Set(Operation operation, Viewer viewer, Slug slug, RangeInput input, bool meets) =>
        gate.Write<string>(operation, viewer, slug, at =>
        {
            var (stores, calendar, school) = (at.Stores, at.Calendar.Id, at.School);
            var all = stores.Series.Of(calendar);
            var chosen = all.Where(at.May).ToList();
            if (chosen.Count == 0 && all.Count > 0)
                return new Outcome<string>.NotAllowed();
            var entry = new FormReader();
            var first = entry.Day("LeaveFirst", input.First, "The first day");
            var last = string.IsNullOrEmpty(input.Last) ? first : entry.Day("LeaveLast", input.Last, "The last day");
            if (first > last)
                entry.Wrong("LeaveLast", "The range ends before it starts. Give a last day after the first.");
            if (first is { } from && last is { } to && Period.DaysBetween(from, to) >= Longest)
                entry.Wrong("LeaveLast", $"A range is not longer than {Longest} days.");
            if (
                !string.IsNullOrEmpty(input.Series)
                && (
                    chosen = [
                        .. chosen.Where(series =>
                            series.Id.Value.ToString(System.Globalization.CultureInfo.InvariantCulture) == input.Series
                        ),
                    ]
                ).Count == 0
            )
                entry.Wrong(
                    "LeaveSeries",
                    "That series is not there any more, or not yours to change. Choose one from the list."
                );
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            if (at.StaleSince<string>(input.Revision) is { } stale)
                return stale;

            var materials = stores.Materials.Of(calendar);
            var (before, after, count) = (new List<SeriesState>(), new List<SeriesState>(), 0);
            foreach (var series in chosen)
            {
                var sessions = Planner
                    .PlanOf(series, school.Time)
                    .Sessions.Where(session =>
                        first <= session.Day && session.Day <= last && (meets ? session.IsCancelled : session.IsHeld)
                    )
                    .ToList();
                if (sessions.Count == 0)
                    continue;
                var altered = Alteration.OfAll(series, sessions, meets);
                if (LinkDoor.Opens(stores, school, viewer, series, altered) is { } refusal)
                    return new Outcome<string>.Refused([new Problem("", refusal)]);
                before.Add(SeriesState.Of(series, takenOff: false, materials));
                if (!stores.Series.Change(altered with { ChangedAt = at.Now }, series.Version))
                    return new Outcome<string>.Stale(null);
                after.Add(SeriesState.Of(stores.Series.Find(series.Id)!, takenOff: false, materials));
                count += sessions.Count;
            }

            var days = Wording.Days(first!.Value, last!.Value);
            if (count == 0)
                return new Outcome<string>.Refused([
                    new Problem(
                        "LeaveFirst",
                        meets ? $"Nothing was cancelled by hand on {days}." : $"Nothing meets on {days}."
                    ),
                ]);
            var summary =
                $"{(meets ? "brought back" : "cancelled")} {Wording.Count(count, "session", "sessions")} of {days}";
            stores.Calendars.Touch(calendar, at.Now);
            at.Note(HistorySubject.Series, after[0].Id, summary, SeriesState.Write(before), SeriesState.Write(after));
            return new Outcome<string>.Done(Wording.Capital(summary) + ".");
        });
}
