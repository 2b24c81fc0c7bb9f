using System.Collections.Immutable;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using NodaTime.Text;

namespace JollyAlmanac.Core.Rosters;

/// <summary>
/// Reads the CSV files of 1EdTech's OneRoster, 1.1 and 1.2: users, roles (1.2), academic sessions, courses, classes, enrollments and orgs. The names of files,
/// columns, roles and types are from memory of the standard's tables.
/// </summary>
public static class OneRoster
{
    /// <summary>The files that are read, without ".csv"; users has to be there.</summary>
    public static ImmutableArray<string> Files { get; } =
    ["manifest", "orgs", "academicsessions", "courses", "users", "roles", "classes", "enrollments"];

    /// <summary>Reads a set of files.</summary>
    /// <param name="tables">The tables that are there, by their file's name without ".csv".</param>
    /// <returns>A whole list, unless its manifest calls the users a "delta".</returns>
    public static Roster Read(IReadOnlyDictionary<string, Table> tables)
    {
        var refused = new List<RefusedLine>();
        if (!tables.TryGetValue("users", out var users))
            return new Roster(
                [],
                [],
                [new RefusedLine("users.csv", 1, "There is no users.csv in it, so there is nobody to read.")],
                false
            );
        var user = new Columns(users, refused, ["sourcedId", "givenName", "familyName"]);
        var missing = user.IsWhole ? [] : new[] { "users" };
        if (missing.Length > 0)
            return new Roster([], [], [.. refused], false);

        var isDelta = Rows(tables, "manifest", refused, ["propertyName", "value"])
            .Any(row =>
                row["propertyName"] == "file.users" && row["value"].Equals("delta", StringComparison.OrdinalIgnoreCase)
            );
        var roles = new Dictionary<string, string>(StringComparer.Ordinal);
        foreach (var row in Rows(tables, "roles", refused, ["userSourcedId", "role"]))
            if (!IsGone(row) && (row["roleType"] is not "secondary" || !roles.ContainsKey(row["userSourcedId"])))
                roles[row["userSourcedId"]] = row["role"];

        var people = new List<RosterPerson>();
        var (bySource, byEmail) = (
            new Dictionary<string, int>(StringComparer.Ordinal),
            new Dictionary<string, int>(StringComparer.OrdinalIgnoreCase)
        );
        var ended = new HashSet<string>(StringComparer.Ordinal);
        var orgs = new Dictionary<string, List<int>>(StringComparer.Ordinal);
        foreach (var row in user.Rows())
        {
            var (source, written) = (row["sourcedId"], row["email"]);
            EmailAddress? email = EmailAddress.TryParse(written, null, out var address) ? address : null;
            if (IsGone(row) || row["enabledUser"].Equals("false", StringComparison.OrdinalIgnoreCase))
            {
                ended.Add(source);
                continue;
            }

            var name = $"{row["givenName"]} {row["familyName"]}".Trim();
            var word = row["role"] is { Length: > 0 } own ? own : roles.GetValueOrDefault(source, "");
            var reason =
                source.Length is 0 or > RosterPlan.LongestSource ? "There is no sourcedId."
                : name.Length is 0 or > RosterPlan.LongestName ? "There is no name, or one far too long."
                : email is null && written.Length > 0 ? $"{Wording.Quote(written)} is no e-mail address."
                : bySource.TryGetValue(source, out var before)
                    ? $"The sourcedId {source} stands on line {people[before].Line}, too."
                : email is not null && byEmail.TryGetValue(address.Value, out var other)
                    ? $"The address {email} is that of line {people[other].Line}, too. Two people cannot share one."
                : PeopleTable.RoleOf(word) is null
                    ? word.Length > 0 ? $"{Wording.Quote(word)} is no role that the almanac knows."
                        : "No role stands beside this person."
                : null;
            if (reason is not null)
            {
                refused.Add(new RefusedLine(users.File, row.Line, reason));
                continue;
            }

            bySource[source] = people.Count;
            if (email is not null)
                byEmail[address.Value] = people.Count;
            foreach (
                var org in row["orgSourcedIds"]
                    .Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            )
                Add(orgs, org, people.Count);
            people.Add(new RosterPerson(source, name, email, PeopleTable.RoleOf(word), row.Line));
        }

        var groups = new List<RosterGroup>();
        var classes = new List<RosterClass>();
        var subjects = Rows(tables, "courses", refused, ["sourcedId", "title"])
            .Where(row => !IsGone(row))
            .GroupBy(row => row["sourcedId"])
            .ToDictionary(one => one.Key, one => FirstOf(one.First()["subjects"]), StringComparer.Ordinal);
        var (students, teachers) = Enrolled(tables, refused, bySource, ended);
        foreach (var row in Rows(tables, "classes", refused, ["sourcedId", "title"]))
        {
            if (IsGone(row))
                continue;
            var (source, title) = (row["sourcedId"], row["title"]);
            if (source.Length is 0 or > RosterPlan.LongestSource || title.Length is 0 or > RosterPlan.LongestName - 20)
            {
                refused.Add(
                    new RefusedLine(
                        "classes.csv",
                        row.Line,
                        "There is no sourcedId or no title of the class, or one far too long."
                    )
                );
                continue;
            }

            // Two classes of one title are told apart by their code.
            var name =
                row["classCode"] is { Length: > 0 and < 40 } code
                && !title.Contains(code, StringComparison.OrdinalIgnoreCase)
                    ? $"{title} {code}"
                    : title;
            groups.Add(
                new RosterGroup(
                    $"class {source}",
                    $"{name}, class list",
                    GroupKind.ClassList,
                    [.. students.GetValueOrDefault(source, []).Distinct()]
                )
            );
            var list = students.GetValueOrDefault(source, []);
            classes.Add(
                new RosterClass(
                    source,
                    // Its code is needed only to tell it from another of its name.
                    title,
                    row["classCode"],
                    FirstOf(row["subjects"]) is { Length: > 0 } subject
                        ? subject
                        : subjects.GetValueOrDefault(row["courseSourcedId"], ""),
                    [.. teachers.GetValueOrDefault(source, []).Distinct()],
                    list.Distinct().Count()
                )
            );
            if (teachers.TryGetValue(source, out var staff))
                groups.Add(
                    new RosterGroup($"staff {source}", $"{name}, teachers", GroupKind.Staff, [.. staff.Distinct()])
                );
        }

        foreach (var row in Rows(tables, "orgs", refused, ["sourcedId", "name", "type"]))
            if (
                !IsGone(row)
                && row["type"].Equals("department", StringComparison.OrdinalIgnoreCase)
                && row["name"].Length > 0
                && orgs.TryGetValue(row["sourcedId"], out var members)
            )
                groups.Add(new RosterGroup($"org {row["sourcedId"]}", row["name"], GroupKind.Department, [.. members]));
        return new Roster([.. people], [.. groups], [.. refused], IsWhole: !isDelta)
        {
            Classes = [.. Distinct(classes)],
            Terms = [.. Terms(tables, refused).OrderBy(term => term.First)],
        };
    }

    private static IEnumerable<RosterClass> Distinct(List<RosterClass> classes)
    {
        var titles = classes
            .GroupBy(one => one.Title, StringComparer.OrdinalIgnoreCase)
            .Where(group => group.Count() > 1)
            .Select(group => group.Key)
            .ToHashSet(StringComparer.OrdinalIgnoreCase);
        return classes.Select(one =>
            titles.Contains(one.Title)
            && one.Code.Length > 0
            && !one.Title.Contains(one.Code, StringComparison.OrdinalIgnoreCase)
                ? one with
                {
                    Title = $"{one.Title} {one.Code}",
                }
                : one
        );
    }

    private static string FirstOf(string list) =>
        list.Split(',', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries).FirstOrDefault("");

    private static IEnumerable<RosterTerm> Terms(IReadOnlyDictionary<string, Table> tables, List<RefusedLine> refused)
    {
        foreach (
            var row in Rows(tables, "academicsessions", refused, ["sourcedId", "title", "type", "startDate", "endDate"])
        )
            if (
                !IsGone(row)
                && row["type"].ToLowerInvariant() is "term" or "semester"
                && LocalDatePattern.Iso.Parse(row["startDate"]).TryGetValue(default, out var first)
                && LocalDatePattern.Iso.Parse(row["endDate"]).TryGetValue(default, out var last)
                && first <= last
                && row["title"].Length > 0
            )
                yield return new RosterTerm(row["title"], first, last);
    }

    private static (Dictionary<string, List<int>> Students, Dictionary<string, List<int>> Teachers) Enrolled(
        IReadOnlyDictionary<string, Table> tables,
        List<RefusedLine> refused,
        Dictionary<string, int> bySource,
        HashSet<string> ended
    )
    {
        var (students, teachers) = (
            new Dictionary<string, List<int>>(StringComparer.Ordinal),
            new Dictionary<string, List<int>>(StringComparer.Ordinal)
        );
        foreach (var row in Rows(tables, "enrollments", refused, ["classSourcedId", "userSourcedId", "role"]))
        {
            if (IsGone(row) || ended.Contains(row["userSourcedId"]))
                continue;
            if (!bySource.TryGetValue(row["userSourcedId"], out var person))
            {
                refused.Add(
                    new RefusedLine(
                        "enrollments.csv",
                        row.Line,
                        $"Nobody with the sourcedId {Wording.Quote(row["userSourcedId"])} is among the users."
                    )
                );
                continue;
            }

            Add(
                PeopleTable.RoleOf(row["role"]) == SchoolRole.Student ? students : teachers,
                row["classSourcedId"],
                person
            );
        }

        return (students, teachers);
    }

    private static void Add(Dictionary<string, List<int>> lists, string key, int person)
    {
        if (!lists.TryGetValue(key, out var list))
            lists[key] = list = [];
        list.Add(person);
    }

    private static bool IsGone(Row row) => row["status"].Equals("tobedeleted", StringComparison.OrdinalIgnoreCase);

    private static IEnumerable<Row> Rows(
        IReadOnlyDictionary<string, Table> tables,
        string name,
        List<RefusedLine> refused,
        string[] needed
    ) =>
        tables.TryGetValue(name, out var table) && new Columns(table, refused, needed) is { IsWhole: true } columns
            ? columns.Rows()
            : [];

    private sealed class Columns
    {
        private readonly Table table;
        private readonly Dictionary<string, int> places = new(StringComparer.OrdinalIgnoreCase);

        public Columns(Table table, List<RefusedLine> refused, string[] needed)
        {
            this.table = table;
            foreach (var (at, name) in table.Columns.Index())
                places.TryAdd(name.Trim(), at);
            var missing = needed.Where(name => !places.ContainsKey(name)).ToList();
            IsWhole = missing.Count == 0;
            if (!IsWhole)
                refused.Add(
                    new RefusedLine(
                        table.File,
                        1,
                        $"{table.File} has no column {Wording.List(missing)}, so nothing of it is read."
                    )
                );
        }

        public bool IsWhole { get; }

        public IEnumerable<Row> Rows() => table.Rows.Select(row => new Row(places, row.Fields, row.Line));
    }

    private readonly record struct Row(Dictionary<string, int> Places, ImmutableArray<string> Fields, int Line)
    {
        public string this[string column] =>
            Places.TryGetValue(column, out var at) && at < Fields.Length ? AddressList.Plain(Fields[at]) : "";
    }
}
