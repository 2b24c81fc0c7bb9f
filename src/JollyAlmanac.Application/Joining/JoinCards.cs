using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;

namespace JollyAlmanac.Application.Joining;

/// <summary>A join card as its keeper sees it.</summary>
/// <param name="Link">The link.</param>
/// <param name="Title">What the class is called.</param>
/// <param name="Card">The card.</param>
/// <param name="Parts">The parts on it.</param>
/// <param name="Offered">The parts that there are.</param>
/// <param name="IsInside">The card carries what opens the room past its door.</param>
public sealed record JoinCardView(
    JoinLink Link,
    string Title,
    JoinCard Card,
    CardParts Parts,
    CardParts Offered,
    bool IsInside
)
{
    /// <summary>The mark of the calendar that it stands on.</summary>
    public required Core.Calendars.Mark Mark { get; init; }

    /// <summary>Who teaches there: the owner of its calendar; empty where they are gone.</summary>
    public required string Teacher { get; init; }
}

/// <summary>Puts join cards together, for those who work the door.</summary>
public sealed class JoinCards(Gate gate, AlmanacDatabase database)
{
    /// <summary>The links of a calendar whose doors the viewer works, by their codes.</summary>
    public IReadOnlyList<JoinCode> On(Viewer viewer, Slug slug) =>
        database.Read(stores =>
            CalendarContext.Find(stores, viewer, slug) is { } found
            && found.May(Permission.WorkDoor)
            && viewer.LookedAtBy is null
                ? (IReadOnlyList<JoinCode>)
                    [
                        .. stores
                            .JoinLinks.Of(found.Calendar.Id)
                            .Where(link => !link.LeadsNowhere)
                            .Select(link => link.Code),
                    ]
                : []
        );

    /// <summary>The card of a link.</summary>
    /// <param name="viewer">Who asks.</param>
    /// <param name="code">The link.</param>
    /// <param name="root">Where the almanac is reached.</param>
    /// <param name="parts">The parts chosen, besides the short address.</param>
    /// <param name="words">The words of the link; empty for the usual.</param>
    public Outcome<JoinCardView> Of(Viewer viewer, JoinCode code, Uri root, CardParts parts, string? words = null) =>
        gate.Read<JoinCardView>(Operation.ReadJoinCard, viewer, code, at =>
        {
            var (stores, door) = (at.Stores, at.Door);
            // A card is passed on: it tells what is for all, and what is for some only where nothing else uses the link.
            var forAll = door.Series.Where(series => series.IsForAll).ToList();
            var told = forAll.Count > 0 ? forAll : door.Series.Where(series => door.Tells(series, viewer)).ToList();
            var title = Wording.List([
                .. told.Select(series => series.Title).Distinct().DefaultIfEmpty(door.Link.Name),
            ]);
            var when = string.Join(
                "; ",
                told.Select(series => Wording.Capital(SayBack.When(series.Pattern, door.School.Time))).Distinct()
            );
            // What passes the door is read only where somebody chose it.
            var secret = parts & (CardParts.MeetingId | CardParts.Passcode | CardParts.DialIn);
            var target = secret == CardParts.None ? new JoinTarget(root) : stores.JoinLinks.TargetOf(door.Link.Id);
            var facts = door.Link.Target;
            var offered =
                CardParts.Title
                | (when.Length > 0 ? CardParts.When : 0)
                | CardParts.Door
                | (facts.HasMeetingId ? CardParts.MeetingId : 0)
                | (facts.HasPasscode ? CardParts.Passcode : 0)
                | (facts.HasDialIn ? CardParts.DialIn : 0)
                | (door.Link.WhatToDo.Length > 0 ? CardParts.WhatToDo : 0)
                | (door.Owner.Contact.Length > 0 ? CardParts.Contact : 0);
            // What is too long is cut rather than refused: it stands on the page as it will be pasted.
            var said = new FormReader().Line("words", words, "", JoinCard.LongestWords, needed: false);
            if (said.Length > JoinCard.LongestWords)
                said = said[..JoinCard.LongestWords];
            return new Outcome<JoinCardView>.Done(
                new JoinCardView(
                    door.Link,
                    title,
                    JoinCard.Of(
                        door.Link.Code.At(root),
                        new CardText(title, when, door.Link.Entry.InWords)
                        {
                            WhatToDo = door.Link.WhatToDo,
                            Contact = door.Owner.Contact,
                            LinkWords = said,
                        },
                        target,
                        parts & offered
                    ),
                    parts & offered,
                    offered,
                    (secret & offered) != CardParts.None
                )
                {
                    Mark = door.Owner.Mark,
                    Teacher = stores.People.NamesOf([door.Owner.Owner]).GetValueOrDefault(door.Owner.Owner, ""),
                }
            );
        });
}
