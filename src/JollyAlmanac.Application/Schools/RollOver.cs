using JollyAlmanac.Application.Composing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage.Calendars;

namespace JollyAlmanac.Application.Schools;

/// <summary>A series that can be carried to another term.</summary>
/// <param name="Calendar">The calendar it stands on.</param>
/// <param name="Series">The series as it is.</param>
/// <param name="Carried">As it would be in the other term; null where it cannot be carried.</param>
/// <param name="Sentence">What would be true of it, or why it is not carried.</param>
public sealed record RollOverLine(Calendar Calendar, Series Series, Series? Carried, string Sentence);

/// <summary>What carrying a term to another would do.</summary>
/// <param name="School">The school.</param>
/// <param name="From">The term to carry.</param>
/// <param name="To">The term to carry it to.</param>
/// <param name="Lines">The series that meet in the first.</param>
public sealed record RollOverPreview(School School, Term From, Term To, IReadOnlyList<RollOverLine> Lines);

/// <summary>Carries the series of a term to another one, with new dates: patterns and join links kept, changes left behind.</summary>
public sealed class RollOver(Gate gate)
{
    /// <summary>What would be carried; the viewer sees what they may change.</summary>
    public Outcome<RollOverPreview> Preview(Viewer viewer, TermId from, TermId to) =>
        gate.Read<RollOverPreview>(Operation.RollOver, viewer, at => Preview(at, from, to));

    /// <summary>Carries the series chosen, all or none of them.</summary>
    /// <returns>How many were carried.</returns>
    public Outcome<int> Do(
        Viewer viewer,
        TermId from,
        TermId to,
        IReadOnlyCollection<SeriesId> chosen,
        bool withMaterials,
        int revision
    ) => gate.Write<int>(Operation.RollOver, viewer, at => Preview(at, from, to)
                .Then<int>(preview =>
                {
                    if (preview.School.Revision != revision)
                        return new Outcome<int>.Stale(null);
                    var lines = preview
                        .Lines.Where(line => line.Carried is not null && chosen.Contains(line.Series.Id))
                        .ToList();
                    if (lines.Count == 0)
                        return Outcome.Because<int>("", "No series is chosen. Choose those to copy.");
                    foreach (var line in lines)
                        Carry(at, line, preview.To, withMaterials);
                    return new Outcome<int>.Done(lines.Count);
                }));

    /// <summary>The series that the viewer carried over last and that can be taken back in one go; none where there are none.</summary>
    public IReadOnlyList<string> LastCarried(Viewer viewer) =>
        gate.Read<IReadOnlyList<string>>(Operation.RollOver, viewer, at => new Outcome<IReadOnlyList<string>>.Done([
            .. Last(at).Select(one => one.Series.Title),
        ])).OrNone
        ?? [];

    /// <summary>Takes back what the viewer carried over last: all of it, or where one was changed since, nothing.</summary>
    /// <returns>How many series were taken off.</returns>
    public Outcome<int> Undo(Viewer viewer) => gate.Write<int>(Operation.RollOver, viewer, at =>
        {
            var last = Last(at);
            if (last.Count == 0)
                return Outcome.Because<int>(
                    "",
                    "There is nothing of yours to take back, or some of it was changed since. Undo it on each calendar."
                );
            foreach (var (calendar, line, series, summary) in last)
            {
                if (!at.Stores.Series.SetTakenOff(series.Id, true, series.Version, at.Now))
                    return new Outcome<int>.Stale(null);
                at.Stores.Calendars.Touch(calendar, at.Now);
                at.Stores.History.Add(
                    at.Now,
                    at.Person,
                    calendar,
                    HistorySubject.Calendar,
                    line,
                    Operation.Undo.Name,
                    $"undid: {summary}",
                    SeriesState.Write([SeriesState.Of(series, takenOff: false, at.Stores.Materials.Of(calendar))]),
                    SeriesState.Write([SeriesState.Of(series, takenOff: true, at.Stores.Materials.Of(calendar))])
                );
            }

            return new Outcome<int>.Done(last.Count);
        });

    // What was carried in the last go, where all of it still is as it came.
    private static List<(CalendarId Calendar, long Line, Series Series, string Summary)> Last(AtSchool at)
    {
        if (at.Stores.History.LastOf(at.Operation.Name, at.Person) is not var (newest, _))
            return [];
        var lines = at.Stores.History.DoneAt(at.Operation.Name, at.Person, newest.At);
        var series = lines
            .Select(line => at.Stores.Series.Find(line.Series))
            .OfType<Series>()
            .ToDictionary(one => one.Id);
        return lines.All(line => series.GetValueOrDefault(line.Series) is { Version: 1 })
            ? [.. lines.Select(line => (line.Calendar, line.Line, series[line.Series], line.Summary))]
            : [];
    }

    private static void Carry(AtSchool at, RollOverLine line, Term to, bool withMaterials)
    {
        var (stores, person, calendar, now) = (at.Stores, at.Person, line.Calendar.Id, at.Now);
        var made = stores.Series.Add(
            line.Carried! with
            {
                Uid = ComposeSeries.NewUid(),
                MadeBy = person,
                MadeAt = now,
                ChangedAt = now,
            }
        );
        if (withMaterials)
            foreach (
                var material in stores
                    .Materials.Of(calendar)
                    .Where(material => material.Series == line.Series.Id && material.ForSession is null)
            )
                stores.Materials.Add(
                    material with
                    {
                        Series = made.Id,
                        Key = MaterialKey.New(),
                        Due = null,
                    },
                    person,
                    now
                );
        stores.Calendars.Touch(calendar, now);
        stores.History.Add(
            now,
            person,
            calendar,
            HistorySubject.Series,
            made.Id.Value,
            at.Operation.Name,
            $"copied {made.Title} to the {to.Name}",
            SeriesState.Write([SeriesState.Of(made, takenOff: true, [])]),
            SeriesState.Write([SeriesState.Of(made, takenOff: false, stores.Materials.Of(calendar))])
        );
    }

    private static Outcome<RollOverPreview> Preview(AtSchool at, TermId from, TermId to)
    {
        var (stores, school) = (at.Stores, at.School);
        if (school.Time.Find(from) is not { } old || school.Time.Find(to) is not { } fresh)
            return new Outcome<RollOverPreview>.NotFound();
        if (from == to)
            return new Outcome<RollOverPreview>.Refused([new Problem("To", "Choose another term to copy it to.")]);
        var lines = CalendarContext
            .CalendarsFor(stores, at.Viewer, Permission.ChangeSeries)
            .SelectMany(calendar =>
            {
                var plans = CalendarFacts.Read(stores, calendar.Id).Plans(school.Time);
                return plans
                    .Where(plan => plan.Held.Any(session => old.Holds(session.Day)))
                    .Select(plan => Line(calendar, plan, plans, old, fresh, school.Time));
            });
        return new Outcome<RollOverPreview>.Done(new RollOverPreview(school, old, fresh, [.. lines]));
    }

    private static RollOverLine Line(
        Calendar calendar,
        Plan plan,
        IReadOnlyList<Plan> others,
        Term from,
        Term to,
        SchoolTime school
    )
    {
        var series = plan.Of;
        // One that "this and later" carried on in the same term: only how it is at the end goes on.
        if (
            others.FirstOrDefault(other =>
                other.Of.Follows == series.Id && other.Held.Any(session => from.Holds(session.Day))
            ) is
            { } next
        )
            return new RollOverLine(
                calendar,
                series,
                null,
                $"{series.Title} was continued from {Wording.WithWeekday(next.Held.First().Day)}; how it is since then is copied instead."
            );
        if (series.Pattern.Repeat is Repeat.OnDates)
            return new RollOverLine(
                calendar,
                series,
                null,
                $"{series.Title} has listed dates, which belong to their term."
            );
        var carried = series with
        {
            // A rule that takes its day from its start keeps that day, wherever the other term begins.
            Pattern = series.Pattern with
            {
                From = to.First,
                Repeat = series.Pattern.Repeat is Repeat.ByRule { Rule: var rule }
                    ? new Repeat.ByRule(rule.WithDaysOf(plan.First ?? series.Pattern.From))
                    : series.Pattern.Repeat,
                Extent = series.Pattern.Extent is Extent.Held held
                    ? new Extent.Held(held.Sessions + Before(series, others))
                    : new Extent.WithTerm(to.Id),
                Extra = [],
                Without = [],
            },
            Changes = [],
            FirstNumber = 1,
            Follows = null,
            Version = 1,
        };
        var pattern = PatternText.Of(carried.Pattern).ToString();
        if (
            others.Any(other =>
                other.Of.Title == series.Title
                && other.Of.Id != series.Id
                && (
                    PatternText.Of(other.Of.Pattern).ToString() == pattern
                    || other.Held.Any(session => to.Holds(session.Day))
                        && SayBack.When(other.Of.Pattern, school) == SayBack.When(carried.Pattern, school)
                )
            )
        )
            return new RollOverLine(calendar, series, null, $"{series.Title} meets in the {to.Name} already.");
        if (plan.Held.Any(session => to.Holds(session.Day)))
            return new RollOverLine(calendar, series, null, $"{series.Title} goes on into the {to.Name} by itself.");
        var fresh = Planner.PlanOf(carried, school);
        return fresh.HeldCount == 0
            ? new RollOverLine(calendar, series, null, SayBack.Sentence(fresh, school, calendar.Title))
            : new RollOverLine(calendar, series, carried, SayBack.Sentence(fresh, school, calendar.Title));
    }

    // How many sessions of its number were held by what it carries on: "12 sessions" split after five is twelve again.
    private static int Before(Series series, IReadOnlyList<Plan> others) =>
        series.Follows is { } follows && others.FirstOrDefault(other => other.Of.Id == follows) is { } before
            ? before.Sessions.Count(session => !session.IsExtra && session.LeftOut is null) + Before(before.Of, others)
            : 0;
}
