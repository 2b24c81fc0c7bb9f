using JollyAlmanac.Application.Mail;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
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

/// <summary>A series that is to move to another calendar.</summary>
/// <param name="Calendar">The calendar it is on.</param>
/// <param name="Series">The series.</param>
/// <param name="Calendars">The calendars to choose from, by title.</param>
/// <param name="Told">What becomes of it, a sentence each; empty where no calendar is chosen yet.</param>
/// <param name="Problems">What is wrong with the form.</param>
public sealed record MoveView(
    Calendar Calendar,
    Series Series,
    IReadOnlyList<Calendar> Calendars,
    IReadOnlyList<string> Told,
    IReadOnlyList<Problem> Problems
);

/// <summary>Moves a series to another calendar, whole or from a day on, with all that hangs on it.</summary>
public sealed class MoveSeries(Gate gate)
{
    // What the form asks for, and how it would come about.
    private sealed record Wanted(CalendarContext To, Plan Plan, Session? From)
    {
        // What moves of the series: whether that session is of the part.
        public bool Moves(Session session) => From is null || session.Original.Date >= From.Original.Date;
    }

    /// <summary>What moving a series would do.</summary>
    public Outcome<MoveView> View(Viewer viewer, Slug slug, SeriesId id, MoveInput input) =>
        gate.Read<MoveView>(Operation.MoveSeries, viewer, slug, id, at =>
        {
            var entry = new FormReader();
            var wanted = string.IsNullOrEmpty(input.To) ? null : Read(entry, at, input);
            return new Outcome<MoveView>.Done(
                new MoveView(
                    at.Calendar,
                    at.Series,
                    Choices(at),
                    wanted is null ? [] : [.. Consequences(at, wanted)],
                    entry.Problems
                )
            );
        });

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

    // All that hangs on it goes along; who had its sessions by e-mail and does not get those of the other calendar is told that they end.
    private static bool MoveTo(Stores stores, Series series, CalendarId to, Instant now)
    {
        if (!stores.Series.MoveTo(series.Id, to, series.Version, now))
            return false;
        stores.Materials.MoveAll(series.Id, to);
        stores.Imports.MoveAll(series.Id, to);
        foreach (var sent in stores.Mailings.SentOf(series.Id))
            if (!stores.Mailings.Has(to, sent.Person))
                SessionLetters.TakeBack(stores, sent, now);
        return true;
    }

    private static List<Calendar> Choices(AtCalendar at) =>
        CalendarContext
            .CalendarsFor(at.Stores, at.Viewer, Permission.AddSeries)
            .FindAll(calendar => calendar.Id != at.Calendar.Id);

    private static Wanted? Read(FormReader entry, AtSeries at, MoveInput input)
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

    private static IEnumerable<string> Consequences(AtSeries at, Wanted wanted)
    {
        var (stores, from, to, series) = (at.Stores, at.Calendar, wanted.To.Calendar, at.Series);
        var (gone, stay) = (
            wanted.Plan.Held.Count(wanted.Moves),
            wanted.Plan.Held.Count(session => !wanted.Moves(session))
        );
        yield return $"{Wording.Count(gone, "session goes", "sessions go")} to {to.Title}, with {(gone == 1 ? "its" : "their")} numbers, notes and changes{(stay > 0 ? $"; {stay} before stay on {from.Title}" : "")}.";
        HashSet<Core.People.Person> Seeing(CalendarContext context) =>
            [
                .. Reader
                    .Of(stores, context.Grants)
                    .Where(reader =>
                        AccessRules.IsFor(series.OnlyFor, reader.Level, reader.Viewer, context.Calendar.Id)
                    )
                    .Select(reader => reader.Person),
            ];
        var (now, then) = (Seeing(at.Context), Seeing(wanted.To));
        var (lost, won) = (Names(now, then), Names(then, now));
        yield return lost.Count + won.Count == 0
            ? "The same people see it."
            : Wording.Capital(
                Wording.List([
                    .. new[]
                    {
                        lost.Count == 0
                            ? ""
                            : $"{Wording.Count(lost.Count, "person sees", "people see")} it no more ({Wording.Few(lost)})",
                        won.Count == 0
                            ? ""
                            : $"{Wording.Count(won.Count, "person sees", "people see")} it who did not ({Wording.Few(won)})",
                    }.Where(one => one.Length > 0),
                ])
            ) + ".";
        var (wasOpen, isOpen) = (
            AccessRules.LevelOf(Viewer.Visitor, at.Context.Grants),
            AccessRules.LevelOf(Viewer.Visitor, wanted.To.Grants)
        );
        if (wasOpen != isOpen && series.IsForAll)
            yield return isOpen > wasOpen
                ? $"Whoever opens the class page of {to.Title} sees it, without a sign-in."
                : $"Strangers see it no more as they did on {from.Title}.";
        var (fromFeeds, toFeeds) = (Published(stores, from.Id), Published(stores, to.Id));
        if (fromFeeds.Length + toFeeds.Length > 0)
            yield return Wording.Capital(
                Wording.List([
                    .. new[]
                    {
                        fromFeeds.Length > 0 ? $"{fromFeeds} of {from.Title} tell it no more" : "",
                        toFeeds.Length > 0 ? $"{toFeeds} of {to.Title} tell it from now on" : "",
                    }.Where(one => one.Length > 0),
                ])
            ) + ".";
        var materials = stores.Materials.Of(from.Id).Where(material => material.Series == series.Id).ToList();
        var withThem = materials.Count(material =>
            material.ForSession is not { } session || wanted.From is null || session.Date >= wanted.From.Original.Date
        );
        if (withThem > 0)
            yield return $"{Wording.Count(withThem, "material goes", "materials go")} with {(gone == 1 ? "it" : "them")}; {(withThem == 1 ? "its address stays" : "their addresses stay")}.";
        if (series.JoinLink is { } id)
        {
            var link = stores.JoinLinks.Get(id);
            yield return $"It is joined by {link.Code.Path} as before; the link {(link.Calendar == to.Id ? "is one of" : "stays with")} {stores.Calendars.Get(link.Calendar).Title}.";
        }

        if (series.OnlyFor is not null)
            yield return $"It stays only for those it is for now, as far as they see {to.Title}.";
        var mailed = stores.Mailings.SentOf(series.Id).Where(sent => sent.CancelledAt is null).ToList();
        if (mailed.Count > 0)
            yield return $"{Wording.Capital(Wording.Count(mailed.Count, "person who has", "people who have"))} its sessions by e-mail {(mailed.Count == 1 ? "is" : "are")} written to.";
        var about = stores.Notices.Of(from.Id).Count(notice => notice.About is { } key && key.Series == series.Id);
        if (about > 0)
            yield return $"{Wording.Count(about, "notice", "notices")} about a session of it {(about == 1 ? "stays" : "stay")} on {from.Title}, without the session.";
        if (stores.Imports.Of(from.Id).Any(import => import.Series == series.Id))
            yield return $"It came with a file: where that is brought in again to {from.Title}, it comes there anew.";
    }

    private static List<string> Names(HashSet<Core.People.Person> these, HashSet<Core.People.Person> without)
    {
        var known = without.Select(person => person.Id).ToHashSet();
        return [.. these.Where(person => !known.Contains(person.Id)).Select(person => person.Name).Order()];
    }

    private static string Published(Stores stores, CalendarId calendar)
    {
        var counts = stores
            .Publications.Of(calendar)
            .Where(publication => publication.PausedAt is null)
            .CountBy(publication => publication.Kind)
            .ToDictionary();
        return Wording.List([
            .. new[]
            {
                counts.TryGetValue(PublicationKind.Feed, out var feeds) ? Wording.Count(feeds, "feed", "feeds") : "",
                counts.TryGetValue(PublicationKind.Embed, out var embeds)
                    ? Wording.Count(embeds, "embed", "embeds")
                    : "",
            }.Where(one => one.Length > 0),
        ]);
    }
}
