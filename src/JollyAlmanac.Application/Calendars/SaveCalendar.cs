using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Calendars;

/// <summary>Makes a calendar, or changes its title, mark and who may see it.</summary>
public sealed class SaveCalendar(AlmanacDatabase database, IClock clock)
{
    /// <summary>Makes a calendar; its maker becomes owner and manager.</summary>
    public Outcome<Calendar> Create(Viewer viewer, CalendarInput input) => database.Write<Outcome<Calendar>>(stores =>
    {
        if (viewer.Person is not { } person || !AccessRules.MayMakeCalendar(viewer.Role)) return new Outcome<Calendar>.NotAllowed();
        if (stores.School.Find() is not { } school) return new Outcome<Calendar>.NotFound();
        var (facts, problems) = Read(stores, input, null);
        if (problems.Count > 0) return new Outcome<Calendar>.Refused(problems);
        var now = clock.GetCurrentInstant();
        var calendar = stores.Calendars.Add(facts with { Slug = FreeSlug(stores, facts.Title), Zone = school.Time.Zone, Owner = person, ChangedAt = now });
        stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OnePerson(person), AccessLevel.Manager));
        Open(stores, calendar.Id, input.OpenTo);
        stores.History.Add(now, person, calendar.Id, HistorySubject.Calendar, calendar.Id.Value, nameof(Create), $"made the calendar {calendar.Title}", null, JsonSerializer.Serialize(input));
        return new Outcome<Calendar>.Done(calendar);
    }, outcome => outcome.IsDone);

    /// <summary>Changes a calendar. Its address stays.</summary>
    public Outcome<Calendar> Change(Viewer viewer, string slug, CalendarInput input) => database.Write<Outcome<Calendar>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return new Outcome<Calendar>.NotFound();
        if (!setting.May(Deed.ChangeCalendar) || viewer.Person is not { } person) return new Outcome<Calendar>.NotAllowed();
        var (facts, problems) = Read(stores, input, setting.Calendar);
        if (problems.Count > 0) return new Outcome<Calendar>.Refused(problems);
        var now = clock.GetCurrentInstant();
        var before = InputOf(stores, setting);
        if (!stores.Calendars.Change(facts with { ChangedAt = now }, input.Version))
            return new Outcome<Calendar>.Stale(stores.History.Newest(HistorySubject.Calendar, setting.Calendar.Id, setting.Calendar.Id.Value));
        Open(stores, setting.Calendar.Id, input.OpenTo);
        stores.History.Add(now, person, setting.Calendar.Id, HistorySubject.Calendar, setting.Calendar.Id.Value, nameof(Change), $"changed the calendar {facts.Title}",
            JsonSerializer.Serialize(before), JsonSerializer.Serialize(input));
        return new Outcome<Calendar>.Done(stores.Calendars.Get(setting.Calendar.Id));
    }, outcome => outcome.IsDone);

    /// <summary>What the form of a calendar begins with; null where the viewer may not change it.</summary>
    public CalendarInput? Form(Viewer viewer, string slug) => database.Read(stores =>
        Setting.Find(stores, viewer, slug) is { } setting && setting.May(Deed.ChangeCalendar) ? InputOf(stores, setting) : null);

    /// <summary>What the form of a new calendar begins with.</summary>
    public CalendarInput NewForm() => database.Read(stores =>
    {
        var mark = Mark.Next([.. stores.Calendars.All().Select(calendar => calendar.Mark)]);
        return new CalendarInput("", CalendarKind.Class, "", "", mark.Colour, mark.Shape, OpenTo.Anyone);
    });

    /// <summary>Gives somebody a level on a calendar. For its managers.</summary>
    public Outcome<Grant> GiveAccess(Viewer viewer, string slug, Grantee to, AccessLevel level) => database.Write<Outcome<Grant>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting) return new Outcome<Grant>.NotFound();
        if (!setting.May(Deed.ChangeCalendar) || viewer.Person is not { } person) return new Outcome<Grant>.NotAllowed();
        var grant = new Grant(setting.Calendar.Id, to, level);
        var now = clock.GetCurrentInstant();
        stores.Calendars.Set(grant);
        stores.Calendars.Touch(setting.Calendar.Id, now);
        stores.History.Add(now, person, setting.Calendar.Id, HistorySubject.Calendar, setting.Calendar.Id.Value, nameof(GiveAccess), $"gave the level {level} to {to}", null, null);
        return new Outcome<Grant>.Done(grant);
    }, outcome => outcome.IsDone);

    private static CalendarInput InputOf(Stores stores, Setting setting)
    {
        var calendar = setting.Calendar;
        var department = calendar.Department is { } id ? stores.Calendars.Get(id).Slug : "";
        return new CalendarInput(calendar.Title, calendar.Kind, department, calendar.Description, calendar.Mark.Colour, calendar.Mark.Shape, CalendarInput.OpenToOf(setting.Grants), calendar.Version);
    }

    private static (Calendar Facts, IReadOnlyList<Problem> Problems) Read(Stores stores, CalendarInput input, Calendar? now)
    {
        var entry = new Entry();
        var title = entry.Line("Title", input.Title, "The title", CalendarInput.LongestTitle, needed: true);
        var description = entry.Lines("Description", input.Description, "The description", 2000);
        if (!Enum.IsDefined(input.Kind)) entry.Wrong("Kind", "Choose whom the calendar is for.");
        if (!Enum.IsDefined(input.Colour) || !Enum.IsDefined(input.Shape)) entry.Wrong("Colour", "Choose a colour and a shape from those shown.");
        var department = string.IsNullOrEmpty(input.Department) ? null : stores.Calendars.Find(input.Department);
        if (!string.IsNullOrEmpty(input.Department) && department is not { Kind: CalendarKind.Department }) entry.Wrong("Department", "Choose a department from the list, or none.");
        if (department is not null && input.Kind != CalendarKind.Class) entry.Wrong("Department", "Only a class belongs to a department. Choose none.");
        if (title.Length > 0 && stores.Calendars.All().Any(other => other.Id != now?.Id && string.Equals(other.Title, title, StringComparison.OrdinalIgnoreCase)))
            entry.Wrong("Title", $"There is a calendar called {title} already. Give this one a name that tells them apart.");
        var facts = new Calendar(now?.Id ?? default, input.Kind, department?.Id, title, now?.Slug ?? "", description, new Mark(input.Colour, input.Shape),
            now?.Zone ?? DateTimeZone.Utc, now?.Owner ?? default, 0, 0, default);
        return (facts, entry.Problems);
    }

    private static void Open(Stores stores, CalendarId calendar, OpenTo openTo)
    {
        foreach (var grantee in CalendarInput.OpenGrantees) stores.Calendars.Remove(calendar, grantee);
        if (openTo == OpenTo.Anyone) stores.Calendars.Set(new Grant(calendar, new Grantee.Anyone(), AccessLevel.Full));
        if (openTo == OpenTo.Everyone) stores.Calendars.Set(new Grant(calendar, new Grantee.Everyone(), AccessLevel.Full));
    }

    private static string FreeSlug(Stores stores, string title)
    {
        var wanted = Slug.Of(title, "calendar");
        var slug = wanted;
        for (var turn = 2; stores.Calendars.Find(slug) is not null || Reserved.Contains(slug); turn++)
            slug = $"{wanted[..Math.Min(wanted.Length, Slug.Longest - 6)].TrimEnd('-')}-{turn}";
        return slug;
    }

    // Words that stand in the same place of an address.
    private static readonly HashSet<string> Reserved = ["new"];
}
