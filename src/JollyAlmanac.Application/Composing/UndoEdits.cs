using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using NodaTime;

namespace JollyAlmanac.Application.Composing;

/// <summary>Undoes the last change of a calendar's series, and goes back to how they were after an earlier one.</summary>
public sealed class UndoEdits(Gate gate)
{
    /// <summary>Undoes the viewer's last change that is not undone yet, unless somebody changed the same series since.</summary>
    /// <returns>What was undone, in a sentence.</returns>
    public Outcome<string> Undo(Viewer viewer, Slug slug) => gate.Write<string>(Operation.Undo, viewer, slug, at =>
        {
            var (stores, calendar) = (at.Stores, at.Calendar.Id);
            var last = stores.History.LastToUndo(calendar, at.Person);
            if (last?.Subject == HistorySubject.Material)
                return UndoMaterials(at, last);
            if (last is not null && Together(stores, last, calendar, at.Person) is { Count: > 1 } together)
                return UndoTogether(at, together);
            if (last is null || stores.History.States(calendar, last.Id) is not var (line, before, after))
                return new Outcome<string>.Refused([
                    new Problem("", "There is nothing of yours to undo on this calendar."),
                ]);
            if (line.Act == Operation.MoveSeries.Name && MoveSeries.Return(at, after) is { } refusal)
                return refusal;
            // What was done since and undone again does not stand in the way: the states are compared, not the versions.
            foreach (var (state, current) in after.Zip(Now(stores, calendar, after)))
                if (!state.IsSameAs(current))
                    return at.Stale<string>(HistorySubject.Series, state.Id);
            return Apply(
                at,
                before,
                after,
                line.Id - 1,
                HistorySubject.Calendar,
                line.Id,
                $"undid: {line.Summary}",
                isUndone: true
            );
        });

    /// <summary>The viewer's last change of a calendar that is not undone yet, as it is told; null where there is none.</summary>
    internal static HistoryLine? Last(Stores stores, CalendarId calendar, PersonId person) =>
        stores.History.LastToUndo(calendar, person) is not { } last ? null
        : Together(stores, last, calendar, person) is { Count: > 1 } together
            ? last with
            {
                Summary = $"added {Wording.Count(together.Count, "series", "series")}",
            }
        : last;

    // The series that were added with it from one text: they are undone as they came.
    private static List<long> Together(Stores stores, HistoryLine last, CalendarId calendar, PersonId person) =>
        last.Act != Operation.AddSeveralSeries.Name
            ? []
            :
            [
                .. stores
                    .History.DoneAt(last.Act, person, last.At)
                    .Where(one => one.Calendar == calendar)
                    .Select(one => one.Line),
            ];

    private static Outcome<string> UndoTogether(AtCalendar at, List<long> lines)
    {
        foreach (var id in lines)
        {
            if (at.Stores.History.States(at.Calendar.Id, id) is not var (line, before, after))
                return new Outcome<string>.Refused([
                    new Problem("", "There is nothing of yours to undo on this calendar."),
                ]);
            foreach (var (state, current) in after.Zip(Now(at.Stores, at.Calendar.Id, after)))
                if (!state.IsSameAs(current))
                    return at.Stale<string>(HistorySubject.Series, state.Id);
            var done = Apply(
                at,
                before,
                after,
                line.Id - 1,
                HistorySubject.Calendar,
                line.Id,
                $"undid: {line.Summary}",
                isUndone: true
            );
            if (!done.IsDone)
                return done;
        }

        return new Outcome<string>.Done($"Undid: added {Wording.Count(lines.Count, "series", "series")}.");
    }

    /// <summary>Puts the series of a line of the history back to how they were after it.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="lineId">The line.</param>
    /// <param name="revision">The calendar's revision that the page was made from.</param>
    public Outcome<string> Restore(Viewer viewer, Slug slug, long lineId, int revision) =>
        gate.Write<string>(Operation.Restore, viewer, slug, at =>
        {
            var (stores, calendar) = (at.Stores, at.Calendar.Id);
            if (stores.History.States(calendar, lineId) is not var (line, _, after))
                return new Outcome<string>.NotFound();
            if (at.StaleSince<string>(revision) is { } stale)
                return stale;
            var then = line.At.InZone(at.School.Time.Zone);
            // What was split off one of them since goes with the state it came from; it is taken off, and can be brought back.
            var wanted = after.Concat(SplitSince(stores, calendar, after, line.Id)).ToList();
            return Apply(
                at,
                wanted,
                Now(stores, calendar, wanted),
                line.Id,
                HistorySubject.Series,
                line.SubjectId,
                $"went back to {Wording.WithWeekday(then.Date)}, {Wording.Of(then.TimeOfDay)}: {line.Summary}"
            );
        });

    // The series that carry on one of the states' own, directly or through others, and came after that line.
    private static List<SeriesState> SplitSince(
        Stores stores,
        CalendarId calendar,
        IReadOnlyList<SeriesState> states,
        long line
    )
    {
        var materials = stores.Materials.Of(calendar);
        var known = states.Select(state => new SeriesId(state.Id)).ToHashSet();
        var split = new List<SeriesState>();
        foreach (var series in stores.Series.Of(calendar).OrderBy(series => series.Id.Value))
        {
            if (
                series.Follows is not { } follows
                || !known.Contains(follows)
                || known.Contains(series.Id)
                || !stores.History.CameAfter(series.Id, calendar, line)
            )
                continue;
            known.Add(series.Id);
            split.Add(SeriesState.Of(series, takenOff: true, materials));
        }

        return split;
    }

    // How they were by a line of the history; what files had said of them by then counts again.
    private static Outcome<string> Apply(
        AtCalendar at,
        IReadOnlyList<SeriesState> wanted,
        IReadOnlyList<SeriesState> current,
        long by,
        HistorySubject subject,
        long subjectId,
        string summary,
        bool isUndone = false
    )
    {
        var (stores, calendar, now) = (at.Stores, at.Calendar.Id, at.Now);
        foreach (var state in wanted)
        {
            // One that cannot be read as it is stored can still be put back to what it was.
            if (
                (
                    stores.Series.Find(new SeriesId(state.Id), alsoTakenOff: true)
                    ?? stores.Series.FindBare(new SeriesId(state.Id))
                )
                is not { } series
            )
                return new Outcome<string>.NotFound();
            if (series.Calendar != calendar)
                return new Outcome<string>.Refused([
                    new Problem("", $"{state.Title} was moved to another calendar since, so it cannot go back here."),
                ]);
            if (!at.May(series))
                return new Outcome<string>.NotAllowed();
            if (Readable(state) is not { } pattern)
                return new Outcome<string>.Refused([
                    new Problem(
                        "",
                        $"How {state.Title} was then cannot be read any more, so it cannot come back. Choose another line of the history."
                    ),
                ]);
            if (pattern.Extent is Extent.WithTerm with && at.School.Time.Find(with.Term) is null)
                return new Outcome<string>.Refused([
                    new Problem("", $"The term that {state.Title} ran with is gone, so it cannot come back as it was."),
                ]);
            if (state.Link is { } link && !stores.JoinLinks.Exists(new JoinLinkId(link)))
                return new Outcome<string>.Refused([
                    new Problem("", $"The join link that {state.Title} had is gone, so it cannot come back as it was."),
                ]);
            var (version, isOff) = (series.Version, stores.Series.IsTakenOff(series.Id));
            if (state.TakenOff)
            {
                if (!isOff && !stores.Series.SetTakenOff(series.Id, true, version, now))
                    return new Outcome<string>.Stale(null);
                continue;
            }

            var before = isOff ? null : series;
            if (LinkDoor.Opens(stores, at.School, at.Viewer, before, state.On(series)) is { } refusal)
                return new Outcome<string>.Refused([new Problem("", refusal)]);
            if (isOff && !stores.Series.SetTakenOff(series.Id, false, version++, now))
                return new Outcome<string>.Stale(null);
            if (!stores.Series.Change(state.On(series) with { ChangedAt = now }, version))
                return new Outcome<string>.Stale(null);
            foreach (var material in state.Materials)
                stores.Materials.Move(new MaterialId(material.Id), series.Id, material.At);
            // What came or went with what is undone, goes or comes back with it; nothing else of its materials does.
            if (current.FirstOrDefault(one => one.Id == state.Id) is not { } had || !isUndone)
                continue;
            var (then, since) = (
                state.Materials.Select(one => one.Id).ToHashSet(),
                had.Materials.Select(one => one.Id).ToHashSet()
            );
            stores.Materials.Remove(series.Id, [.. since.Except(then).Select(id => new MaterialId(id))], now);
            foreach (var id in then.Except(since))
                stores.Materials.PutBack(new MaterialId(id));
        }

        stores.Calendars.Touch(calendar, now);
        var told = at.Note(
            subject,
            subjectId,
            summary,
            SeriesState.Write(current),
            SeriesState.Write(Now(stores, calendar, wanted))
        );
        foreach (var state in wanted)
            stores.Imports.UndoTo(new SeriesId(state.Id), by, told);
        return new Outcome<string>.Done(Wording.Capital(summary) + ".");
    }

    // Materials as they were before that line: those that were attached are taken off, and what was taken off comes back.
    private static Outcome<string> UndoMaterials(AtCalendar at, HistoryLine line)
    {
        var (stores, calendar) = (at.Stores, at.Calendar.Id);
        if (stores.History.MaterialStates(calendar, line.Id) is not var (before, after))
            return new Outcome<string>.NotFound();
        foreach (var (was, then) in before.Zip(after))
        {
            if (
                stores.Materials.FindAny(new MaterialId(was.Id)) is not var (material, isOff)
                || material.Calendar != calendar
            )
                return new Outcome<string>.Refused([
                    new Problem("", $"{then.Title} is gone for good, so this cannot be undone any more."),
                ]);
            if (MaterialState.Of(material, isOff) != then)
                return at.Stale<string>(HistorySubject.Material, was.Id);
            var back = was.On(material);
            foreach (var place in new[] { material.Series, back.Series })
                if (
                    !(
                        place is { } id
                            ? stores.Series.Find(id) is { } series && at.May(series)
                            : at.Context.May(Permission.ChangeSeries)
                    )
                )
                    return new Outcome<string>.NotAllowed();
            if (!stores.Materials.Change(back, was.TakenOff, material.Version, at.Now))
                return new Outcome<string>.Stale(null);
        }

        stores.Calendars.Touch(calendar, at.Now);
        at.Note(HistorySubject.Calendar, line.Id, $"undid: {line.Summary}");
        return new Outcome<string>.Done($"Undid: {line.Summary}.");
    }

    private static MeetingPattern? Readable(SeriesState state)
    {
        try
        {
            return state.On(Bare).Pattern;
        }
        catch (Exception refusal)
            when (refusal
                    is FormatException
                        or InvalidOperationException
                        or ArgumentException
                        or OverflowException
                        or IndexOutOfRangeException
                        or NullReferenceException
                        or NodaTime.Text.UnparsableValueException
            )
        {
            return null;
        }
    }

    private static readonly Series Bare = new(
        default,
        default,
        "",
        "",
        "",
        "",
        new MeetingPattern(
            new Repeat.OnDates([new LocalDate(2000, 1, 1)]),
            new SessionTime.AllDay(),
            DateTimeZone.Utc,
            new LocalDate(2000, 1, 1),
            new Extent.Open()
        ),
        null,
        default,
        1,
        default,
        default
    );

    // The same series as they are stored now. A series is never deleted, only taken off.
    private static List<SeriesState> Now(Stores stores, CalendarId calendar, IReadOnlyList<SeriesState> states)
    {
        var materials = stores.Materials.Of(calendar);
        return
        [
            .. states
                .Select(state => new SeriesId(state.Id))
                .Select(id =>
                    SeriesState.Of(
                        (stores.Series.Find(id, alsoTakenOff: true) ?? stores.Series.FindBare(id))!,
                        stores.Series.IsTakenOff(id),
                        materials
                    )
                ),
        ];
    }
}
