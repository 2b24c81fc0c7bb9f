using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Storage;
using NodaTime;
using Calendar = JollyAlmanac.Core.Calendars.Calendar;

namespace JollyAlmanac.Application.Joining;

/// <summary>What the form of a room at once says, as typed.</summary>
/// <param name="Class">The slug of the calendar whose people it is for; empty for nobody in particular.</param>
/// <param name="Minutes">For how long.</param>
/// <param name="Address">The address of the room, where no provider makes one.</param>
public sealed record OpenRoomInput(string? Class = "", string? Minutes = "60", string? Address = "");

/// <summary>A room that was opened at once and has not ended.</summary>
/// <param name="Link">Its link.</param>
/// <param name="Calendar">The calendar that the link belongs to.</param>
/// <param name="Ends">When it ends.</param>
public sealed record OpenedRoom(JoinLink Link, Calendar Calendar, Instant Ends);

/// <summary>What somebody may open a room for, and what of theirs is open.</summary>
/// <param name="Calendars">The calendars to choose from, by title.</param>
/// <param name="Provider">Who makes the room; null where its address is to be pasted.</param>
/// <param name="Open">The rooms that are open, the first to end first.</param>
public sealed record RoomOffer(IReadOnlyList<Calendar> Calendars, string? Provider, IReadOnlyList<OpenedRoom> Open);

/// <summary>Opens a room at once, for a class or for whoever is given its address; it ends by itself.</summary>
public sealed class OpenRoom(Gate gate, AlmanacDatabase database, IClock clock, RoomProviders rooms)
{
    /// <summary>The longest that a room is open: a school day.</summary>
    public const int MostMinutes = 600;

    /// <summary>What somebody may open a room for; null for who keeps no join links.</summary>
    public RoomOffer? Offer(Viewer viewer) =>
        viewer.Person is null
            ? null
            : database.Read(stores =>
            {
                var kept = Kept(stores, viewer);
                if (kept.Count == 0)
                    return null;
                var byId = kept.ToDictionary(calendar => calendar.Id);
                var now = clock.GetCurrentInstant();
                return new RoomOffer(
                    kept,
                    rooms.Provider?.Name,
                    [
                        .. stores
                            .JoinLinks.Ending()
                            .Where(link => link.EndsAt > now && byId.ContainsKey(link.Calendar))
                            .OrderBy(link => link.EndsAt)
                            .Select(link => new OpenedRoom(link, byId[link.Calendar], link.EndsAt!.Value)),
                    ]
                );
            });

    /// <summary>Opens a room.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="input">The form.</param>
    /// <param name="cancellation">Ends the waiting for the provider.</param>
    /// <returns>Its link, whose door is open until it ends.</returns>
    public async Task<Outcome<JoinLink>> Do(
        Viewer viewer,
        OpenRoomInput input,
        CancellationToken cancellation = default
    )
    {
        var entry = new FormReader();
        var minutes = entry.Number("Minutes", input.Minutes, "The number of minutes", 5, MostMinutes);
        var isForClass = !string.IsNullOrEmpty(input.Class);
        // One for nobody in particular needs somebody who keeps it all the same: a calendar of its maker.
        var kept = database.Read(stores => Kept(stores, viewer));
        var calendar =
            isForClass ? kept.Find(one => one.Slug.Value == input.Class)
            : kept.Count > 0 ? kept[0]
            : null;
        if (kept.Count == 0 || viewer.LookedAtBy is not null)
            return new Outcome<JoinLink>.NotAllowed();
        if (calendar is null)
            entry.Wrong("Class", "Choose one of your calendars from the list, or nobody in particular.");
        var typed = rooms.Provider is null ? LinkReader.ReadTarget(entry, new RoomInput(input.Address)) : null;
        if (rooms.Provider is null && typed is null && !entry.Has("Address"))
            entry.Wrong("Address", "There is no provider here that makes rooms. Paste the address of one.");
        if (!entry.IsGood)
            return new Outcome<JoinLink>.Refused(entry.Problems);
        var name = isForClass ? calendar!.Title : "Room";
        name = $"{(name.Length <= 60 ? name : name[..60].TrimEnd())}, now";
        return typed is not null
            ? Keep(viewer, calendar!.Slug, name, isForClass, minutes!.Value, typed)
            : await rooms.WithRoom(
                name,
                "",
                target => Keep(viewer, calendar!.Slug, name, isForClass, minutes!.Value, target),
                cancellation
            );
    }

    private static List<Calendar> Kept(Stores stores, Viewer viewer) =>
        CalendarContext.CalendarsFor(stores, viewer, Permission.KeepJoinLinks);

    private Outcome<JoinLink> Keep(
        Viewer viewer,
        Slug slug,
        string name,
        bool isForClass,
        int minutes,
        JoinTarget target
    ) => gate.Write<JoinLink>(Operation.AddJoinLink, viewer, slug, at =>
        {
            var ends = at.Now + Duration.FromMinutes(minutes);
            var fresh = EditJoinLinks.Fresh(at.Stores, at.Calendar.Id, name, at.Context.Grants);
            var link = fresh with
            {
                Code = at.Stores.JoinLinks.FreeCode(isForClass ? name : "room"),
                // Without sessions it is open by hand alone, and that ends.
                Entry = new EntryRule.AllDay(),
                Hand = new ManualOverride(true, at.Now, ends, null),
                EndsAt = ends,
                Audience = isForClass ? fresh.Audience : EntryAudience.Anyone,
                IsPersonal = !isForClass,
                Reach = target.Provider.Length > 0 ? rooms.Reach : fresh.Reach,
            };
            var made = at.Stores.JoinLinks.Add(link, target, at.Person, at.Now);
            at.Note(
                HistorySubject.JoinLink,
                made.Id.Value,
                $"opened a room at once, {(isForClass ? "for the class" : "for nobody in particular")}, until {Wording.Of(ends.InZone(at.School.Time.Zone).TimeOfDay)}"
            );
            return new Outcome<JoinLink>.Done(made);
        });

    /// <summary>Ends a room before its time.</summary>
    public async Task<Outcome<JoinLink>> End(
        Viewer viewer,
        JoinCode code,
        int version,
        CancellationToken cancellation = default
    )
    {
        JoinTarget? target = null;
        var outcome = gate.Write<JoinLink>(Operation.WithdrawJoinLink, viewer, code, version, at =>
        {
            if (at.Link.EndsAt is null || at.Link.WithdrawnAt is not null)
                return new Outcome<JoinLink>.NotFound();
            target = at.Stores.JoinLinks.TargetOf(at.Link.Id);
            return at.Store(at.Link with { WithdrawnAt = at.Now, Hand = null }, $"ended the room {at.Link.Name}");
        });
        if (outcome.IsDone && target is not null && rooms.Of(target.Provider) is { } provider)
            await rooms.Retire(provider, target.Room, cancellation);
        return outcome;
    }

    /// <summary>Ends the rooms whose time is over.</summary>
    /// <returns>How many.</returns>
    public async Task<int> Tidy(CancellationToken cancellation = default)
    {
        var now = clock.GetCurrentInstant();
        if (!database.Read(stores => stores.JoinLinks.Ending().Any(link => link.EndsAt <= now)))
            return 0;
        var ended = database.Write(
            stores =>
            {
                var over = new List<JoinTarget>();
                foreach (var link in stores.JoinLinks.Ending().Where(link => link.EndsAt <= now))
                {
                    if (
                        !stores.JoinLinks.Change(
                            link with
                            {
                                WithdrawnAt = link.EndsAt,
                                Hand = null,
                            },
                            link.Version,
                            now
                        )
                    )
                        continue;
                    over.Add(stores.JoinLinks.TargetOf(link.Id));
                    stores.History.Add(
                        now,
                        stores.Calendars.Get(link.Calendar).Owner,
                        link.Calendar,
                        HistorySubject.JoinLink,
                        link.Id.Value,
                        Operation.WithdrawJoinLink.Name,
                        $"let the room {link.Name} end, as set before",
                        null,
                        null
                    );
                }

                return over;
            },
            _ => true
        );
        foreach (var target in ended)
            if (rooms.Of(target.Provider) is { } provider)
                await rooms.Retire(provider, target.Room, cancellation);
        return ended.Count;
    }
}
