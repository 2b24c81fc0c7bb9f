using System.Collections.Immutable;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Core.Rosters;

/// <summary>What a column of a table of people says.</summary>
public enum PeopleColumn
{
    /// <summary>The e-mail address.</summary>
    Email,

    /// <summary>The whole name.</summary>
    Name,

    /// <summary>The first name.</summary>
    GivenName,

    /// <summary>The last name.</summary>
    FamilyName,

    /// <summary>What they are at the school.</summary>
    Role,

    /// <summary>A group they are in.</summary>
    Group,

    /// <summary>What the list knows them by.</summary>
    Source,
}

/// <summary>Reads people from a table, by the names of its columns.</summary>
public static class PeopleTable
{
    private static readonly ImmutableArray<(PeopleColumn Column, string[] Names)> Known =
    [
        (PeopleColumn.Email, ["email", "mail", "emailaddress", "mailaddress", "schoolemail", "useremail"]),
        (PeopleColumn.GivenName, ["firstname", "givenname", "given", "forename", "first"]),
        (PeopleColumn.FamilyName, ["lastname", "familyname", "family", "surname", "last"]),
        (
            PeopleColumn.Name,
            ["name", "fullname", "displayname", "student", "studentname", "person", "teacher", "teachername"]
        ),
        (PeopleColumn.Role, ["role", "kind", "type", "position", "status"]),
        (PeopleColumn.Group, ["group", "class", "classlist", "section", "course", "homeroom"]),
        (
            PeopleColumn.Source,
            ["sourcedid", "id", "studentid", "personid", "userid", "number", "studentnumber", "identifier"]
        ),
    ];

    /// <summary>Which column is which, by their names; the first of several that could be it.</summary>
    /// <returns>For what is found, its place from 0.</returns>
    public static ImmutableDictionary<PeopleColumn, int> Match(ImmutableArray<string> columns)
    {
        var plain = columns
            .Select(column => new string([.. PlainLetters.Fold(column).Where(char.IsAsciiLetterOrDigit)]))
            .ToList();
        var found = ImmutableDictionary.CreateBuilder<PeopleColumn, int>();
        foreach (var (column, names) in Known)
            if (
                names.Select(name => plain.IndexOf(name)).FirstOrDefault(at => at >= 0 && !found.ContainsValue(at), -1)
                is >= 0
                    and var at
            )
                found[column] = at;
        return found.ToImmutable();
    }

    /// <summary>The role of a word, in any case; null for one that is none.</summary>
    /// <example>
    /// <code>
    /// PeopleTable.RoleOf("Pupil") // Student
    /// PeopleTable.RoleOf("ferryman") // null
    /// </code>
    /// </example>
    public static SchoolRole? RoleOf(string word) =>
        PlainLetters.Fold(word.Trim()) switch
        {
            "student" or "students" or "pupil" or "learner" => SchoolRole.Student,
            "teacher"
            or "staff"
            or "aide"
            or "principal"
            or "counselor"
            or "counsellor"
            or "proctor"
            or "administrator"
            or "siteadministrator"
            or "systemadministrator"
            or "districtadministrator" => SchoolRole.Teacher,
            "family" or "parent" or "guardian" or "relative" => SchoolRole.Family,
            "guest" or "visitor" => SchoolRole.Guest,
            _ => null,
        };

    /// <summary>Reads a table.</summary>
    /// <param name="table">The table.</param>
    /// <param name="columns">Which column is which, by its place from 0.</param>
    /// <returns>
    /// A list that adds. A line with neither an address nor an id is refused, and so is one whose address is none, or stands in a line
    /// before it.
    /// </returns>
    public static Roster Read(Table table, IReadOnlyDictionary<PeopleColumn, int> columns)
    {
        var people = new List<RosterPerson>();
        var refused = new List<RefusedLine>();
        var groups = new Dictionary<string, List<int>>(StringComparer.OrdinalIgnoreCase);
        var byKey = new Dictionary<string, int>(StringComparer.OrdinalIgnoreCase);
        var doubles = 0;
        foreach (var (line, fields) in table.Rows)
        {
            string Of(PeopleColumn column) =>
                columns.TryGetValue(column, out var at) && at >= 0 && at < fields.Length
                    ? AddressList.Plain(fields[at])
                    : "";
            void Refuse(string reason) => refused.Add(new RefusedLine(table.File, line, reason));
            var (written, source) = (Of(PeopleColumn.Email), Of(PeopleColumn.Source));
            EmailAddress? email = EmailAddress.TryParse(written, null, out var address) ? address : null;
            if (fields.All(string.IsNullOrWhiteSpace))
                continue;
            if (email is null && written.Length > 0)
            {
                Refuse($"{Wording.Quote(written)} is no e-mail address.");
                continue;
            }

            if (email is null && source.Length == 0)
            {
                Refuse("There is no e-mail address, and no id to know them by.");
                continue;
            }

            var name = Of(PeopleColumn.Name);
            if (name.Length == 0)
                name = $"{Of(PeopleColumn.GivenName)} {Of(PeopleColumn.FamilyName)}".Trim();
            else
                name = AddressList.FirstNameFirst(name);
            if (name.Length > RosterPlan.LongestName || source.Length > RosterPlan.LongestSource)
            {
                Refuse("The name or the id is far too long.");
                continue;
            }

            var word = Of(PeopleColumn.Role);
            var role = RoleOf(word);
            if (word.Length > 0 && role is null)
            {
                Refuse($"{Wording.Quote(word)} is no role. Roles are student, teacher, family and guest.");
                continue;
            }

            var key = source.Length > 0 ? $"id {source}" : $"alone {email}";
            if (byKey.TryGetValue(key, out var at))
            {
                // The same person once more, in another group: that is how lists of classes are written.
                if (email != people[at].Email)
                {
                    Refuse($"The id {Wording.Quote(source)} stands on line {people[at].Line} with another address.");
                    continue;
                }

                doubles++;
            }
            else if (email is not null && byKey.TryGetValue($"mail {email}", out var other))
            {
                Refuse($"The address {email} stands on line {people[other].Line}, too. Two people cannot share one.");
                continue;
            }
            else
            {
                at = people.Count;
                byKey[key] = at;
                if (email is not null)
                    byKey[$"mail {email}"] = at;
                people.Add(new RosterPerson(source, name, email, role, line));
            }

            if (Of(PeopleColumn.Group) is { Length: > 0 } group)
            {
                if (!groups.TryGetValue(group, out var members))
                    groups[group] = members = [];
                members.Add(at);
            }
        }

        return new Roster(
            [.. people],
            [.. groups.Select(one => new RosterGroup("", one.Key, GroupKind.ClassList, [.. one.Value.Distinct()]))],
            [.. refused],
            IsWhole: false,
            doubles
        )
        {
            Remarks = table.Remark.Length > 0 ? [table.Remark] : [],
        };
    }

    /// <summary>A pasted list of addresses as a list that adds.</summary>
    public static Roster Read(AddressList list) =>
        new(
            [.. list.People.Select(one => new RosterPerson("", one.Name, one.Address, null, one.Line))],
            [],
            [.. list.Problems.Select(problem => new RefusedLine("", problem.Line, problem.Sentence))],
            IsWhole: false,
            list.Doubles
        );
}
