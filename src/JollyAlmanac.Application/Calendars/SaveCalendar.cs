using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application.Calendars;

/// <summary>Makes a calendar, or changes its title, mark and who may see it.</summary>
public sealed class SaveCalendar(Gate gate, AlmanacDatabase database)
{
    /// <summary>Makes a calendar; its maker becomes owner and manager.</summary>
    public Outcome<Calendar> Create(Viewer viewer, CalendarInput input) =>
        gate.Write<Calendar>(Operation.MakeCalendar, viewer, school =>
        {
            var (stores, person) = (school.Stores, school.Person);
            var (facts, named, problems) = Read(school, input, null);
            if (problems.Count > 0)
                return new Outcome<Calendar>.Refused(problems);
            // What a calendar has is its managers' to pass on.
            CalendarContext? like = null;
            if (!string.IsNullOrEmpty(input.Like))
            {
                like = LikeOf(stores, viewer, input.Like);
                if (like is null)
                    return Outcome.Because<Calendar>(
                        "",
                        "The calendar that this was to be like is not there any more, or not yours to copy. Begin without it."
                    );
            }

            var calendar = Make(school, facts, person, input.OpenTo, input.CoordinatorsManage);
            if (like is not null)
                calendar = TakeOver(stores, calendar, like, input);
            Name(stores, calendar.Id, [], named);
            stores.History.Add(
                school.Now,
                person,
                calendar.Id,
                HistorySubject.Calendar,
                calendar.Id.Value,
                school.Operation.Name,
                like is null
                    ? $"made the calendar {calendar.Title}"
                    : $"made the calendar {calendar.Title}, like {like.Calendar.Title}",
                null,
                JsonSerializer.Serialize(input)
            );
            return new Outcome<Calendar>.Done(calendar);
        });

    private static CalendarContext? LikeOf(Stores stores, Viewer viewer, string? text) =>
        Slug.TryParse(text, null, out var slug)
        && CalendarContext.Find(stores, viewer, slug) is { Calendar.IsInUse: true } found
        && found.May(Permission.ChangeCalendar)
            ? found
            : null;

    // Who is on a list of that class is not in this one. The office comes with the tick that says so.
    private static Calendar TakeOver(Stores stores, Calendar calendar, CalendarContext like, CalendarInput input)
    {
        var office = stores.Groups.OfRole(SchoolRole.Coordinator);
        var lists = stores
            .Groups.Of([.. like.Grants.Select(grant => grant.To).OfType<Grantee.OneGroup>().Select(to => to.Group)])
            .Where(group => group.Kind is GroupKind.ClassList or GroupKind.Section)
            .Select(group => group.Id)
            .ToHashSet();
        foreach (var grant in like.Grants)
            if (
                grant.To switch
                {
                    Grantee.OnePerson one => one.Person != calendar.Owner
                        && stores.People.Get(one.Person) is { EndedAt: null },
                    Grantee.OneGroup group => group.Group != office && !lists.Contains(group.Group),
                    _ => false,
                }
            )
                stores.Calendars.Set(grant with { Calendar = calendar.Id, AwaitsOpening = false });
        if (like.Calendar.ShowsList != calendar.ShowsList)
            stores.Calendars.SetShowsList(calendar.Id, like.Calendar.ShowsList, calendar.Version, calendar.ChangedAt);
        return stores.Calendars.Get(calendar.Id);
    }

    /// <summary>
    /// What the form of a new calendar begins with that is to be like another; null where that is not there, or not the viewer's to copy.
    /// </summary>
    public CalendarInput? FormLike(Viewer viewer, Slug slug) =>
        database.Read(stores =>
        {
            if (LikeOf(stores, viewer, slug.Value) is not { } like)
                return null;
            var office = stores.Groups.OfRole(SchoolRole.Coordinator);
            var mark = Mark.Next(stores.Calendars.LatestMarks(Mark.Neighbours));
            return InputOf(stores, like) with
            {
                Title = "",
                Colour = mark.Colour,
                Shape = mark.Shape,
                Version = 0,
                Named = "",
                Opens = "",
                Like = slug.Value,
                CoordinatorsManage =
                    office is { } group
                    && like.Grants.Any(grant =>
                        grant.Level == AccessLevel.Manager && grant.To is Grantee.OneGroup to && to.Group == group
                    ),
            };
        });

    /// <summary>Makes a calendar of those facts, whose owner is its manager. Without a line of history.</summary>
    internal static Calendar Make(AtSchool at, Calendar facts, PersonId owner, OpenTo openTo, bool coordinatorsManage)
    {
        var stores = at.Stores;
        var calendar = stores.Calendars.Add(
            facts with
            {
                ShowsList = stores.School.DefaultsFor(facts.Department).ShowsList,
                Slug = FreeSlug(stores, facts.Title),
                Zone = at.School.Time.Zone,
                Owner = owner,
                ChangedAt = at.Now,
            }
        );
        stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OnePerson(owner), AccessLevel.Manager));
        Open(stores, calendar.Id, openTo);
        if (coordinatorsManage && stores.Groups.OfRole(SchoolRole.Coordinator) is { } office)
            stores.Calendars.Set(new Grant(calendar.Id, new Grantee.OneGroup(office), AccessLevel.Manager));
        return calendar;
    }

    /// <summary>Changes a calendar. Its address stays.</summary>
    public Outcome<Calendar> Change(Viewer viewer, Slug slug, CalendarInput input) =>
        gate.Write<Calendar>(Operation.ChangeCalendar, viewer, slug, at =>
        {
            var (stores, calendarContext, id) = (at.Stores, at.Context, at.Calendar.Id);
            if (!calendarContext.Calendar.IsInUse)
                return Outcome.Because<Calendar>("", "This calendar is archived. Bring it back first.");
            var (facts, named, problems) = Read(at, input, calendarContext.Calendar);
            if (problems.Count > 0)
                return new Outcome<Calendar>.Refused(problems);
            var before = InputOf(stores, calendarContext);
            if (!stores.Calendars.Change(facts with { ChangedAt = at.Now }, input.Version))
                return at.Stale<Calendar>(HistorySubject.Calendar, id.Value);
            // As it is, where nobody asked for another: somebody may see busy times alone.
            if (input.OpenTo != before.OpenTo)
                Open(stores, id, input.OpenTo);
            Name(stores, id, calendarContext.Grants, named);
            if (input.CloseLinks && input.OpenTo != OpenTo.Anyone)
                CloseLinks(at, input.OpenTo);
            at.Note(
                HistorySubject.Calendar,
                id.Value,
                $"changed the calendar {facts.Title}",
                JsonSerializer.Serialize(before),
                JsonSerializer.Serialize(input)
            );
            return new Outcome<Calendar>.Done(stores.Calendars.Get(id));
        });

    /// <summary>What the form of a calendar begins with; null where the viewer may not change it.</summary>
    public CalendarInput? Form(Viewer viewer, Slug slug) =>
        gate.Read<CalendarInput>(Operation.ChangeCalendar, viewer, slug, at => new Outcome<CalendarInput>.Done(
            InputOf(at.Stores, at.Context)
        )).OrNone;

    /// <summary>
    /// What the form of a new calendar begins with, by its department's defaults or else the school's. Those are made for classes: what is
    /// for a department or the school is not open to anyone unless somebody says so.
    /// </summary>
    /// <param name="viewer">Who makes it.</param>
    /// <param name="kind">Whom it is for.</param>
    /// <param name="department">The department of a class; null, or one that they may not know of, for none.</param>
    public CalendarInput NewForm(Viewer viewer, CalendarKind kind = CalendarKind.Class, Slug? department = null) =>
        database.Read(stores =>
        {
            var mark = Mark.Next(stores.Calendars.LatestMarks(Mark.Neighbours));
            var of = kind == CalendarKind.Class ? DepartmentFor(stores, viewer, department) : null;
            var defaults = stores.School.DefaultsFor(of?.Id);
            var open = Schools.CalendarDefaultsInput.OpenToOf(defaults);
            if (kind != CalendarKind.Class && open == OpenTo.Anyone)
                open = OpenTo.Everyone;
            return new CalendarInput(
                "",
                kind,
                of?.Slug.Value ?? "",
                "",
                mark.Colour,
                mark.Shape,
                open,
                CoordinatorsManage: defaults.CoordinatorsManage
            );
        });

    /// <summary>A department in use that the viewer may know of, to put a class into; null for none.</summary>
    internal static Calendar? DepartmentFor(Stores stores, Viewer viewer, Slug? slug) =>
        slug is { } named
        && stores.Calendars.Find(named) is { Kind: CalendarKind.Department, IsInUse: true } found
        && AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(found.Id)) > AccessLevel.None
            ? found
            : null;

    /// <summary>
    /// The join links of a calendar that let anyone in who has their address, for its managers; to be told where the calendar itself is
    /// closed.
    /// </summary>
    public IReadOnlyList<JoinLink> LinksForAnyone(Viewer viewer, Slug slug) =>
        gate.Read<IReadOnlyList<JoinLink>>(Operation.ChangeCalendar, viewer, slug, at => new Outcome<
            IReadOnlyList<JoinLink>
        >.Done(LinksForAnyone(at))).OrNone
        ?? [];

    private static List<JoinLink> LinksForAnyone(AtCalendar at) =>
        [
            .. at
                .Stores.JoinLinks.Of(at.Calendar.Id)
                .Where(link => link.Audience == EntryAudience.Anyone && !link.LeadsNowhere),
        ];

    /// <summary>Puts a calendar away: kept, but hidden, and its feeds say so. It can be brought back at any time.</summary>
    public Outcome<Calendar> Archive(Viewer viewer, Slug slug, int version) =>
        gate.Write<Calendar>(Operation.ArchiveCalendar, viewer, slug, version, at =>
            SetUse(at, at.Now, null, $"archived the calendar {at.Calendar.Title}")
        );

    /// <summary>Deletes a calendar, where its title was typed; it can be brought back for a month.</summary>
    public Outcome<Calendar> Delete(Viewer viewer, Slug slug, string? title, int version) =>
        gate.Write<Calendar>(Operation.DeleteCalendar, viewer, slug, version, at =>
            string.Equals(title?.Trim(), at.Calendar.Title, StringComparison.OrdinalIgnoreCase)
                ? SetUse(at, at.Calendar.ArchivedAt, at.Now, $"deleted the calendar {at.Calendar.Title}")
                : Outcome.Because<Calendar>(
                    "DeleteTitle",
                    $"Write the calendar’s title, {at.Calendar.Title}, to delete it. Nothing was deleted."
                )
        );

    /// <summary>Brings a calendar back that was put away, or deleted less than a month ago.</summary>
    public Outcome<Calendar> BringBack(Viewer viewer, Slug slug, int version) =>
        gate.Write<Calendar>(Operation.BringBackCalendar, viewer, slug, version, at =>
            SetUse(at, null, null, $"brought the calendar {at.Calendar.Title} back")
        );

    /// <summary>Opens a calendar to its people at once, before its day.</summary>
    public Outcome<Calendar> OpenNow(Viewer viewer, Slug slug, int version) =>
        gate.Write<Calendar>(Operation.ChangeCalendar, viewer, slug, version, at =>
        {
            if (at.Calendar.OpensOn is null)
                return new Outcome<Calendar>.Done(at.Calendar);
            if (!at.Stores.Calendars.Change(at.Calendar with { OpensOn = null, ChangedAt = at.Now }, version))
                return at.Stale<Calendar>(HistorySubject.Calendar, at.Calendar.Id.Value);
            at.Note(
                HistorySubject.Calendar,
                at.Calendar.Id.Value,
                $"opened {at.Calendar.Title}, before {Wording.WithYear(at.Calendar.OpensOn.Value)}"
            );
            return new Outcome<Calendar>.Done(at.Stores.Calendars.Get(at.Calendar.Id));
        });

    /// <summary>Archives, deletes or brings back within an act that was let in.</summary>
    internal static Outcome<Calendar> SetUse(AtCalendar at, Instant? away, Instant? deleted, string summary)
    {
        var id = at.Calendar.Id;
        if (!at.Stores.Calendars.SetUse(id, away, deleted, at.Calendar.Version, at.Now))
            return at.Stale<Calendar>(HistorySubject.Calendar, id.Value);
        at.Note(HistorySubject.Calendar, id.Value, summary);
        return new Outcome<Calendar>.Done(at.Stores.Calendars.Get(id));
    }

    private static void CloseLinks(AtCalendar at, OpenTo openTo)
    {
        var audience = openTo == OpenTo.Everyone ? EntryAudience.School : EntryAudience.PeopleOfTheCalendar;
        foreach (var link in LinksForAnyone(at))
        {
            at.Stores.JoinLinks.Change(link with { Audience = audience }, link.Version, at.Now);
            (at with { Operation = Operation.ChangeJoinLink }).Note(
                HistorySubject.JoinLink,
                link.Id.Value,
                $"let only people of the {(openTo == OpenTo.Everyone ? "school" : "class")} in by {link.Name}"
            );
        }
    }

    // The people named on it see it in full; who is not named any more loses that, and nothing above it.
    private static void Name(
        Stores stores,
        CalendarId calendar,
        IEnumerable<Grant> grants,
        IReadOnlyCollection<Grantee>? named
    )
    {
        if (named is null)
            return;
        var before = grants
            .Where(grant => grant.To is Grantee.OnePerson or Grantee.OneGroup)
            .ToDictionary(grant => grant.To, grant => grant.Level);
        foreach (var to in named.Where(to => before.GetValueOrDefault(to) < AccessLevel.Full))
            stores.Calendars.Set(new Grant(calendar, to, AccessLevel.Full));
        foreach (var (to, level) in before)
            if (level == AccessLevel.Full && !named.Contains(to))
                stores.Calendars.Remove(calendar, to);
    }

    private static CalendarInput InputOf(Stores stores, CalendarContext calendarContext)
    {
        var calendar = calendarContext.Calendar;
        var department = calendar.Department is { } id ? stores.Calendars.Get(id).Slug.Value : "";
        return new CalendarInput(
            calendar.Title,
            calendar.Kind,
            department,
            calendar.Description,
            calendar.Mark.Colour,
            calendar.Mark.Shape,
            CalendarInput.OpenToOf(calendarContext.Grants),
            calendar.Version,
            string.Join(
                '\n',
                stores
                    .People.EmailsOf([.. FullOf(calendarContext).OfType<Grantee.OnePerson>().Select(to => to.Person)])
                    .Concat(
                        stores
                            .Groups.Of([.. FullOf(calendarContext).OfType<Grantee.OneGroup>().Select(to => to.Group)])
                            .Select(group => group.Name)
                    )
            )
        )
        {
            Opens = calendar.OpensOn is { } opens ? LocalDatePattern.Iso.Format(opens) : "",
            Contact = calendar.Contact,
        };
    }

    private static LocalDate? ReadOpening(FormReader entry, CalendarInput input, Calendar? now, LocalDate today)
    {
        if (input.Opens is null)
            return now?.OpensOn;
        if (input.Opens.Trim().Length == 0)
            return null;
        var day = entry.Day("Opens", input.Opens, "The day it opens");
        if (day < today)
            entry.Wrong(
                "Opens",
                "That day is over. Choose one to come, or leave it empty to open the calendar at once."
            );
        if (day > today.PlusYears(2))
            entry.Wrong("Opens", "That is more than two years away. Choose an earlier day.");
        return day > today ? day : null;
    }

    private static IEnumerable<Grantee> FullOf(CalendarContext calendarContext) =>
        calendarContext.Grants.Where(grant => grant.Level == AccessLevel.Full).Select(grant => grant.To);

    private static (Calendar Facts, IReadOnlyCollection<Grantee>? Named, IReadOnlyList<Problem> Problems) Read(
        AtSchool at,
        CalendarInput input,
        Calendar? now
    )
    {
        var (stores, viewer) = (at.Stores, at.Viewer);
        var entry = new FormReader();
        var title = entry.Line("Title", input.Title, "The title", CalendarInput.LongestTitle, needed: true);
        var description = entry.Lines("Description", input.Description, "The description", 2000);
        if (!Enum.IsDefined(input.Kind))
            entry.Wrong("Kind", "Choose whom the calendar is for.");
        if (!Enum.IsDefined(input.Colour) || !Enum.IsDefined(input.Shape))
            entry.Wrong("Colour", "Choose a colour and a shape from those shown.");
        if (!Enum.IsDefined(input.OpenTo))
            entry.Wrong("OpenTo", "Choose who may open its class page.");
        bool Knows(Calendar other) =>
            AccessRules.LevelOf(viewer, stores.Calendars.GrantsOf(other.Id)) > AccessLevel.None;
        // One that the viewer may not know of is as good as none; the one it has stays.
        var department = Slug.TryParse(input.Department, null, out var named) ? stores.Calendars.Find(named) : null;
        if (department is not null && department.Id != now?.Department && (!department.IsInUse || !Knows(department)))
            department = null;
        if (!string.IsNullOrEmpty(input.Department) && department is not { Kind: CalendarKind.Department })
            entry.Wrong("Department", "Choose a department from the list, or none.");
        if (department is not null && input.Kind != CalendarKind.Class)
            entry.Wrong("Department", "Only a class belongs to a department. Choose none.");
        if (title.Length > 0 && stores.Calendars.Titled(title).Any(other => other.Id != now?.Id && Knows(other)))
            entry.Wrong(
                "Title",
                $"There is a calendar called {title} already. Give this one a name that tells them apart."
            );
        var facts = new Calendar(
            now?.Id ?? default,
            input.Kind,
            department?.Id,
            title,
            now?.Slug ?? default,
            description,
            new Mark(input.Colour, input.Shape),
            now?.Zone ?? DateTimeZone.Utc,
            now?.Owner ?? default,
            0,
            0,
            default
        )
        {
            OpensOn = ReadOpening(entry, input, now, at.Today),
            Contact = input.Contact is null
                ? now?.Contact ?? ""
                : entry.Lines("Contact", input.Contact, "Whom to ask", Calendar.LongestContact),
        };
        return (facts, ReadNamed(stores, entry, input, viewer), entry.Problems);
    }

    // Addresses as one has them; a line that is a group's name is that group, for who may find groups.
    private static List<Grantee>? ReadNamed(Stores stores, FormReader entry, CalendarInput input, Viewer viewer)
    {
        if (input.Named is null)
            return null;
        var mayFind = AccessRules.MayAtSchool(Permission.FindPeople, viewer.Role);
        var groups = new List<Grantee>();
        var lines = new List<string>();
        foreach (var line in entry.Bounded("Named", input.Named, "The list of people", 50_000).Split('\n'))
            if (
                mayFind
                && !line.Contains('@', StringComparison.Ordinal)
                && line.Trim() is { Length: > 0 } name
                && stores.Groups.Named(name) is { } group
            )
                groups.Add(new Grantee.OneGroup(group));
            else
                lines.Add(line);
        var list = AddressList.Read(string.Join('\n', lines));
        foreach (var problem in list.Problems.Take(FormReader.MostOfOne + 1))
            entry.Wrong("Named", problem.Sentence);
        var emails = list.People.Select(one => one.Address).ToList();
        if (emails.Count > CalendarInput.MostNamed)
            entry.Wrong("Named", $"These are {emails.Count} people; {CalendarInput.MostNamed} may be named here.");
        var people = stores.People.FindByEmails([.. emails.Take(CalendarInput.MostNamed)]);
        foreach (var email in emails.Where(email => !people.ContainsKey(email)).Take(FormReader.MostOfOne + 1))
            entry.Wrong(
                "Named",
                $"Nobody at the school has the address {Wording.Quote(email.Value)}. Look how it is written, or ask the coordinator to add them."
            );
        return [.. people.Values.Distinct().Select(person => new Grantee.OnePerson(person)), .. groups.Distinct()];
    }

    /// <summary>Says who may open a calendar without being named.</summary>
    internal static void Open(Stores stores, CalendarId calendar, OpenTo openTo)
    {
        foreach (var grantee in CalendarInput.OpenGrantees)
            stores.Calendars.Remove(calendar, grantee);
        if (openTo == OpenTo.Anyone)
            stores.Calendars.Set(new Grant(calendar, new Grantee.Anyone(), AccessLevel.Full));
        if (openTo == OpenTo.Everyone)
            stores.Calendars.Set(new Grant(calendar, new Grantee.Everyone(), AccessLevel.Full));
    }

    private static Slug FreeSlug(Stores stores, string title)
    {
        var wanted = Slug.Of(title, "calendar");
        var slug = wanted;
        for (var turn = 2; stores.Calendars.Find(slug) is not null || Reserved.Contains(slug); turn++)
            slug = wanted.Numbered(turn);
        return slug;
    }

    // Words that stand in the same place of an address.
    private static readonly HashSet<Slug> Reserved = [new Slug("new")];
}
