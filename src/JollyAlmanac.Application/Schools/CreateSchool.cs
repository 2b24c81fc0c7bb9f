using JollyAlmanac.Application.People;
using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Schools;

/// <summary>What the first-run page asks for, as typed.</summary>
public sealed record SchoolInput(
    string? Name,
    string? Zone,
    string? FirstDayOfWeek,
    string? TermName,
    string? TermFirst,
    string? TermLast,
    string? ManagerName,
    string? ManagerEmail,
    string? ManagerPassword
);

/// <summary>The first run: makes the school, its first term, its first coordinator and a calendar of the whole school. Only once.</summary>
public sealed class CreateSchool(AlmanacDatabase database, IClock clock, Passwords passwords)
{
    /// <summary>Whether the school is there already.</summary>
    public bool IsDone => database.Read(stores => stores.School.Find() is not null);

    /// <summary>Makes it.</summary>
    /// <returns>The first coordinator; not allowed where a school is there.</returns>
    public Outcome<PersonId> Do(SchoolInput input)
    {
        var entry = new FormReader();
        var name = entry.Line("Name", input.Name, "The school's name", 120, needed: true);
        var zone = ZoneText.Find(input.Zone ?? "");
        if (zone is null)
            entry.Wrong("Zone", "Choose the school's time zone from the list, for example America/Halifax.");
        var firstDay =
            Enum.TryParse<IsoDayOfWeek>(input.FirstDayOfWeek, out var day) && SetSchoolTime.FirstDays.Contains(day)
                ? day
                : IsoDayOfWeek.Monday;
        var termName = entry.Line("TermName", input.TermName, "The term's name", 60, needed: true);
        var first = entry.Day("TermFirst", input.TermFirst, "The term's first day");
        var last = entry.Day("TermLast", input.TermLast, "The term's last day");
        if (first > last)
            entry.Wrong("TermLast", "The term ends before it starts. Give a last day after the first.");
        if (first is { } from && last is { } to && Period.DaysBetween(from, to) > 400)
            entry.Wrong("TermLast", "A term is not longer than 400 days. Split it in two.");
        var person = PersonFields.Read(entry, input.ManagerName, input.ManagerEmail, input.ManagerPassword, "Manager");
        if (!entry.IsGood)
            return new Outcome<PersonId>.Refused(entry.Problems);
        var hash = passwords.Hash(input.ManagerPassword!);
        return database.Write<Outcome<PersonId>>(
            stores =>
            {
                if (stores.School.Find() is not null)
                    return new Outcome<PersonId>.NotAllowed();
                var now = clock.GetCurrentInstant();
                stores.School.Add(name, zone!.Id, firstDay, now);
                stores.School.AddTerm(SchoolYear.Name(first!.Value, last!.Value), termName, first.Value, last.Value);
                var manager = stores.People.Add(
                    person.Name,
                    person.Email,
                    SchoolRole.Coordinator,
                    hash,
                    Secrets.NewStamp(),
                    now
                );
                stores.History.Add(
                    now,
                    manager,
                    null,
                    HistorySubject.School,
                    1,
                    "CreateSchool",
                    $"set up {name}",
                    null,
                    null
                );
                var calendar = stores.Calendars.Add(
                    new Calendar(
                        default,
                        CalendarKind.School,
                        null,
                        name,
                        Slug.Of(name, "school"),
                        "",
                        new Mark(MarkColour.Juniper, MarkShape.Disc),
                        zone,
                        manager,
                        0,
                        0,
                        now
                    )
                );
                // The office keeps it, whoever has it.
                var office = stores.Groups.AddOfRole(SchoolRole.Coordinator, "Coordinators");
                stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OnePerson(manager), AccessLevel.Manager));
                stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OneGroup(office), AccessLevel.Manager));
                stores.Calendars.Set(new Grant(calendar.Id, new Grantee.Everyone(), AccessLevel.Full));
                stores.History.Add(
                    now,
                    manager,
                    calendar.Id,
                    HistorySubject.Calendar,
                    calendar.Id.Value,
                    "CreateCalendar",
                    $"made the calendar {name}",
                    null,
                    null
                );
                return new Outcome<PersonId>.Done(manager);
            },
            outcome => outcome.IsDone
        );
    }
}

/// <summary>What a school year is called.</summary>
internal static class SchoolYear
{
    /// <summary>
    /// "2026–27" for a term of autumn or spring, by the convention that a year which begins in or after July runs on into the next.
    /// </summary>
    public static string Name(LocalDate first, LocalDate last)
    {
        var start = first.Month >= 7 ? first.Year : first.Year - 1;
        return last.Year > start + 1 ? $"{first.Year}" : $"{start}–{(start + 1) % 100:00}";
    }
}
