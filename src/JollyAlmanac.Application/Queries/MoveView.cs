using JollyAlmanac.Application.Composing;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Queries;

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

/// <summary>Tells what moving a series to another calendar would do, before it is done.</summary>
public sealed class MoveQuery(Gate gate)
{
    /// <summary>What moving a series would do.</summary>
    public Outcome<MoveView> Read(Viewer viewer, Slug slug, SeriesId id, MoveInput input) =>
        gate.Read<MoveView>(Operation.MoveSeries, viewer, slug, id, at =>
        {
            var entry = new FormReader();
            var wanted = string.IsNullOrEmpty(input.To) ? null : MoveSeries.Read(entry, at, input);
            return new Outcome<MoveView>.Done(
                new MoveView(
                    at.Calendar,
                    at.Series,
                    MoveSeries.Choices(at),
                    wanted is null ? [] : [.. Consequences(at, wanted)],
                    entry.Problems
                )
            );
        });

    private static IEnumerable<string> Consequences(AtSeries at, MoveSeries.Wanted wanted)
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
