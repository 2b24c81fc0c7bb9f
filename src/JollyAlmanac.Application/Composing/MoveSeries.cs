using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Calendars;
using NodaTime;

namespace JollyAlmanac.Application.Composing;

/// <summary>Where a series is to move, as typed.</summary>
/// <param name="To">The slug of the calendar.</param>
/// <param name="From">The first day that moves, ISO; empty for all of it.</param>
/// <param name="Version">The series' version that the form was made from.</param>
public sealed record MoveInput(string? To = "", string? From = "", int Version = 0);

/// <summary>Moves a series to another calendar, whole or from a day on, with all that hangs on it.</summary>
public sealed class MoveSeries(Gate gate)
{
    /// <summary>What a form asks for.</summary>
    /// <param name="To">The calendar.</param>
    /// <param name="Plan">The plan of the series.</param>
    /// <param name="From">The first session that moves; null for all.</param>
    internal sealed record Wanted(CalendarContext To, Plan Plan, Session? From)
    {
        /// <summary>Whether that session moves.</summary>
        public bool Moves(Session session) => From is null || session.Original.Date >= From.Original.Date;
    }

    /// <summary>Moves it. It is undone from the calendar that it was on.</summary>
    /// <returns>What was done, in a sentence.</returns>
    public Outcome<string> Do(Viewer viewer, Slug slug, SeriesId id, MoveInput input) =>
        gate.Write<string>(Operation.MoveSeries, viewer, slug, id, input.Version, at =>
        {
            var entry = new FormReader();
            if (Read(entry, at, input) is not { } wanted)
                return new Outcome<string>.Refused(entry.Problems);
            var (stores, to) = (at.Stores, wanted.To.Calendar);
            var (before, moved) = (
                new List<SeriesState> { SeriesState.Of(at.Series, false, stores.Materials.Of(at.Calendar.Id)) },
                at.Series
            );
            if (wanted.From is { } from)
            {
                var (altered, reason) = Alteration.Of(
                    wanted.Plan,
                    from,
                    new SessionEdit(),
                    ChangeScope.Later,
                    at.School.Time
                );
                if (altered is null)
                    return Outcome.Because<string>("From", reason!);
                if (altered.Split is not null)
                {
                    if (ChangeSession.Keep(at, altered) is not var (states, split))
                        return at.Stale<string>(HistorySubject.Series, id.Value);
                    (before, moved) = (states, split!);
                }
            }

            if (!MoveTo(stores, moved, to.Id, at.Now))
                return at.Stale<string>(HistorySubject.Series, id.Value);
            stores.Calendars.Touch(at.Calendar.Id, at.Now);
            var part = wanted.From is null ? "" : $" from {Wording.WithWeekday(wanted.From.Day)} on";
            var summary = $"moved {at.Series.Title}{part} to {to.Title}";
            var materials = stores.Materials.Of(at.Calendar.Id).Concat(stores.Materials.Of(to.Id)).ToList();
            at.Note(
                HistorySubject.Series,
                id.Value,
                summary,
                SeriesState.Write(before),
                SeriesState.Write(
                    before.Select(state =>
                        SeriesState.Of(stores.Series.Find(new SeriesId(state.Id))!, takenOff: false, materials)
                    )
                )
            );
            Tell(at, to.Id, moved.Id, $"got {at.Series.Title}{part} from {at.Calendar.Title}");
            return new Outcome<string>.Done(Wording.Capital(summary) + ".");
        });

    /// <summary>Brings what a line of the history moved back to the calendar of an act, to be undone there.</summary>
    /// <param name="at">The act on the calendar that it was on.</param>
    /// <param name="after">The states after the line; the last is that of what moved.</param>
    /// <returns>Null where it is back; else why it is not.</returns>
    internal static Outcome<string>? Return(AtCalendar at, IReadOnlyList<SeriesState> after)
    {
        var (stores, state) = (at.Stores, after[^1]);
        if (stores.Series.Find(new SeriesId(state.Id)) is not { } moved || moved.Calendar == at.Calendar.Id)
            return at.Stale<string>(HistorySubject.Series, state.Id);
        if (!SeriesState.Of(moved, false, stores.Materials.Of(moved.Calendar)).IsSameAs(state))
            return at.Stale<string>(HistorySubject.Series, state.Id);
        var from = stores.Calendars.Get(moved.Calendar);
        if (
            CalendarContext
                .Find(stores, at.Viewer, from.Slug)
                ?.May(Permission.ChangeSeries, AccessRules.IsMaker(moved.MadeBy, moved.Calendar, at.Viewer)) != true
        )
            return Outcome.Because<string>(
                "",
                $"It is on {from.Title} now, and what stands there is not yours to change. Ask who keeps that calendar to move it back."
            );
        if (!MoveTo(stores, moved, at.Calendar.Id, at.Now))
            return at.Stale<string>(HistorySubject.Series, state.Id);
        Tell(at, from.Id, moved.Id, $"gave {moved.Title} back to {at.Calendar.Title}");
        return null;
    }

    private static void Tell(AtCalendar at, CalendarId calendar, SeriesId id, string summary)
    {
        at.Stores.Calendars.Touch(calendar, at.Now);
        at.Stores.History.Add(
            at.Now,
            at.Person,
            calendar,
            HistorySubject.Series,
            id.Value,
            Operation.MoveSeries.Name,
            summary,
            null,
            null
        );
    }

    // All that hangs on it goes along.
    private static bool MoveTo(Stores stores, Series series, CalendarId to, Instant now)
    {
        if (!stores.Series.MoveTo(series.Id, to, series.Version, now))
            return false;
        stores.Materials.MoveAll(series.Id, to);
        stores.Imports.MoveAll(series.Id, to);
        return true;
    }

    /// <summary>The calendars that it may go to, by title.</summary>
    internal static List<Calendar> Choices(AtCalendar at) =>
        CalendarContext
            .CalendarsFor(at.Stores, at.Viewer, Permission.AddSeries)
            .FindAll(calendar => calendar.Id != at.Calendar.Id);

    /// <summary>Reads a form; null where something is wrong.</summary>
    internal static Wanted? Read(FormReader entry, AtSeries at, MoveInput input)
    {
        var chosen = Choices(at).Find(calendar => calendar.Slug.Value == input.To);
        if (chosen is null)
            entry.Wrong("To", "Choose one of the calendars that you may add series to.");
        var day = string.IsNullOrWhiteSpace(input.From) ? null : entry.Day("From", input.From, "The first day");
        var plan = SeriesPlan.Of(at.Stores, at.Series, at.School.Time);
        var from = day is null
            ? null
            : plan.Sessions.Where(session => !session.IsExtra && session.Day >= day).MinBy(session => session.Original);
        if (day is not null && from is null)
            entry.Wrong(
                "From",
                $"It does not meet on {Wording.WithWeekday(day.Value)} or later. Choose an earlier day."
            );
        // A session that moves opens its door for the people of the other calendar.
        if (LinkDoor.Opens(at.Stores, at.School, at.Viewer, null, at.Series) is { } refusal)
            entry.Wrong("To", refusal);
        return entry.IsGood && CalendarContext.Find(at.Stores, at.Viewer, chosen!.Slug) is { } to
            ? new Wanted(to, plan, from)
            : null;
    }
}
