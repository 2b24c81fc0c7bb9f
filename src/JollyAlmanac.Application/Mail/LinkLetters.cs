using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>Writes to whoever answers for a join link when its room soon reaches no further, or its passcode is as old as the school allows, while sessions still come after that.</summary>
public sealed class LinkLetters(AlmanacDatabase database, IClock clock)
{
    /// <summary>So many days before its last one.</summary>
    public const int DaysBefore = 7;

    private readonly Pace pace = new(Duration.FromHours(1));

    // One letter for one end: a room that is replaced reaches further, and is asked for anew.
    private static readonly Duration Once = Duration.FromDays(30);

    /// <summary>Writes the letters that are due, at most once an hour.</summary>
    public void Look(CancellationToken cancellation = default)
    {
        var now = clock.GetCurrentInstant();
        if (!pace.IsDue(now))
            return;
        var due = database.Read(stores =>
            stores.School.Find() is { } school
                ?
                [
                    .. stores
                        .JoinLinks.MayEnd(school.PasscodeDays is not null)
                        .TakeWhile(_ => !cancellation.IsCancellationRequested)
                        .Select(id =>
                            (
                                Link: id,
                                End: EndOf(stores, school, id, now),
                                LinkDoor.Read(stores, school, id).Owner.Owner
                            )
                        )
                        .Where(one =>
                            one.End is not null
                            && !stores.Letters.WasMade(LetterKind.LinkDue, one.Owner, one.Link.Value, now - Once)
                        )
                        .Select(one => (one.Link, one.Owner)),
                ]
                : (List<(JoinLinkId, PersonId)>)[]
        );
        if (due.Count == 0)
            return;
        database.Write(
            stores =>
            {
                foreach (var (link, owner) in due)
                    stores.Letters.Add(LetterKind.LinkDue, owner, link.Value, now);
                return true;
            },
            kept => kept
        );
    }

    // The last day, of the room or of its passcode, how many sessions come after it and the last of them; null where that is far off,
    // over, or no matter.
    private static (LocalDate Last, bool IsPasscode, int After, LocalDate LastSession)? EndOf(
        Stores stores,
        School school,
        JoinLinkId id,
        Instant now
    )
    {
        var door = LinkDoor.Read(stores, school, id);
        var today = now.InZone(school.Time.Zone).Date;
        if (door.Link.LeadsNowhere)
            return null;
        foreach (
            var (day, isPasscode) in new[]
            {
                (door.Schedule.LastDay, false),
                (door.Schedule.PasscodeLastDay(school.PasscodeDays), true),
            }
        )
        {
            if (day is not { } last || last < today || last > today.PlusDays(DaysBefore))
                continue;
            var after = door.Schedule.Held.Where(session => session.StartAtSchool.Date > last).ToList();
            if (after.Count > 0)
                return (last, isPasscode, after.Count, after[^1].StartAtSchool.Date);
        }

        return null;
    }

    /// <summary>The letter as it goes; null where its room reaches further by then, or somebody else answers for it.</summary>
    internal static (string Subject, string Text)? Compose(
        Stores stores,
        QueuedLetter letter,
        Person to,
        School school,
        Uri root,
        Instant now
    )
    {
        var id = new JoinLinkId(letter.About);
        if (
            !stores.JoinLinks.Exists(id)
            || EndOf(stores, school, id, now) is not var (last, isPasscode, after, lastSession)
        )
            return null;
        var door = LinkDoor.Read(stores, school, id);
        if (door.Owner.Owner != to.Id || !door.MayKeep(stores.People.ViewerOf(to.Id)))
            return null;
        var name = door.Link.Name;
        var comes =
            $"{Wording.Capital(Wording.Count(after, "session comes", "sessions come"))} after that, the last on {Wording.WithYear(lastSession)}.";
        var edit = new Uri(root, $"join-links/{door.Link.Code}/edit");
        return isPasscode
            ? (
                $"Change the passcode of {name} by {Wording.WithWeekday(last)}",
                $"The school lets a passcode be in use for {Wording.Count(school.PasscodeDays!.Value, "day", "days")}; that of {name} is as old on {Wording.WithYear(last)}. {comes}\n\nChange it where the room is kept, then paste the new invitation; the short address stays the same:\n{edit}"
            )
            : (
                $"{name} runs out on {Wording.WithWeekday(last)}",
                $"The room behind {name} lasts until {Wording.WithYear(last)}. {comes}\n\nPut another room behind it; its short address stays the same:\n{edit}"
            );
    }
}
