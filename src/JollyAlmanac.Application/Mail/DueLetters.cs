using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.Materials;
using JollyAlmanac.Core.People;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Mail;

/// <summary>
/// Reminds those who asked for reminders of a calendar of what is to be done by tomorrow; not who keeps the calendar, nor who marked it as
/// done.
/// </summary>
public sealed class DueLetters(AlmanacDatabase database, IClock clock)
{
    /// <summary>From then on, on the day before: after school, and early enough to do it (common practice, no source).</summary>
    public static readonly LocalTime From = new(16, 0);

    private readonly Pace pace = new(Duration.FromMinutes(5));

    /// <summary>Writes the letters that are due, at most every five minutes.</summary>
    public void Look(CancellationToken cancellation = default)
    {
        var now = clock.GetCurrentInstant();
        if (!pace.IsDue(now))
            return;
        var due = database.Read(stores =>
            stores.School.Find() is { } school ? Due(stores, school, now, cancellation) : []
        );
        if (due.Count == 0)
            return;
        database.Write(
            stores =>
            {
                foreach (var (material, person) in due)
                    stores.Letters.Add(LetterKind.ToBeDone, person, material.Value, now);
                return true;
            },
            kept => kept
        );
    }

    private static List<(MaterialId Material, PersonId Person)> Due(
        Stores stores,
        School school,
        Instant now,
        CancellationToken cancellation
    )
    {
        var due = new List<(MaterialId, PersonId)>();
        foreach (var readers in stores.Mailings.Reminders())
        {
            if (cancellation.IsCancellationRequested)
                break;
            var facts = CalendarFacts.Read(stores, readers.Key);
            // As its keepers see it: whether each reader may have it is asked when the letter goes.
            var tasks = facts
                .ToBeDone(school.Time, now, now, AccessLevel.Manager, ShowChoices.SignedIn, null)
                .Where(task => Begins(task.Due, school.Time.Zone) <= now)
                .ToList();
            foreach (var task in tasks)
            foreach (var (person, _) in readers)
                if (
                    !stores.Materials.DoneBy(person).Contains(task.Material.Id)
                    && !stores.Letters.WasMade(
                        LetterKind.ToBeDone,
                        person,
                        task.Material.Id.Value,
                        Begins(task.Due, school.Time.Zone)
                    )
                )
                    due.Add((task.Material.Id, person));
        }

        return due;
    }

    private static Instant Begins(DueMoment due, DateTimeZone zone) =>
        WallClock.InstantOf(due.Day.PlusDays(-1) + From, zone);

    /// <summary>The letter as it goes; null where it is done, late, not for them or due another day by then.</summary>
    internal static (string Subject, string Text)? Compose(
        Stores stores,
        QueuedLetter letter,
        Person to,
        School school,
        Uri root,
        Instant now
    )
    {
        if (
            stores.Materials.FindAny(new MaterialId(letter.About)) is not var (material, isTakenOff)
            || isTakenOff
            || stores.Materials.DoneBy(to.Id).Contains(material.Id)
        )
            return null;
        var calendar = stores.Calendars.Get(material.Calendar);
        if (!calendar.IsInUse || stores.Mailings.ReminderOf(calendar.Id, to.Id) is null)
            return null;
        var viewer = stores.People.ViewerOf(to.Id);
        var level = AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(calendar.Id));
        if (
            level >= AccessLevel.Editor
            || CalendarFacts
                .Read(stores, calendar.Id)
                .ToBeDone(school.Time, now, now, level, ShowChoices.SignedIn, viewer)
                .FirstOrDefault(one => one.Material.Id == material.Id)
                is not { } task
            || Begins(task.Due, school.Time.Zone) > now
        )
            return null;
        var by = $"{Wording.WithWeekday(task.Due.Day)}{(task.Due.Time is { } time ? $", {Wording.Of(time)}" : "")}";
        return (
            $"{task.Material.Title}, by {by}",
            $"{task.Material.Title} of {calendar.Title} is to be done by {by}:\n{(task.Material.Content is MaterialContent.Link link ? link.Address : new Uri(root, $"m/{task.Material.Key}"))}\n\nMark it as done:\n{new Uri(root, "today")}\n\nTo get no more of these:\n{new Uri(root, $"calendars/{calendar.Slug}/by-mail")}"
        );
    }
}
