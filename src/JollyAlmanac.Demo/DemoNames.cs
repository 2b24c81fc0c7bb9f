using JollyAlmanac.Application.People;
using JollyAlmanac.Core.People;

namespace JollyAlmanac.Demo;

/// <summary>The invented students and families of Skerry Isles School. The same each time.</summary>
internal static class DemoNames
{
    public const int Students = 160;

    private static readonly string[] First =
    [
        "Teodor",
        "Amara",
        "Linnea",
        "Kwame",
        "Isla",
        "Mateus",
        "Noor",
        "Ronan",
        "Yuki",
        "Pilar",
        "Anselm",
        "Zadie",
        "Oskar",
        "Leilani",
        "Bram",
        "Sunniva",
        "Idris",
        "Clementine",
        "Jovan",
        "Maren",
        "Tomasz",
        "Aoife",
        "Dilan",
        "Ruta",
        "Emeka",
        "Signe",
        "Hugo",
        "Parveen",
        "Caspian",
        "Odalys",
        "Viggo",
        "Tamsin",
        "Hinemoa",
        "Lucian",
        "Freja",
        "Baptiste",
        "Nadia",
        "Eero",
        "Solange",
        "Wren",
    ];

    private static readonly string[] Last =
    [
        "Quill",
        "Okonjo",
        "Sandvik",
        "Ferreira",
        "MacAskey",
        "Haddad",
        "Tanabe",
        "Lindqvist",
        "Oyelaran",
        "Brannock",
        "Castellan",
        "Dvorsky",
        "Eklund",
        "Farrow",
        "Gwynne",
        "Halloran",
        "Ivarsen",
        "Jansky",
        "Kaplan",
        "Loomer",
        "Moreau",
        "Nakoa",
        "Ostrander",
        "Penhale",
        "Qureshi",
        "Rasmus",
        "Skelton",
        "Tremblay",
        "Uddin",
        "Voss",
        "Whitlock",
        "Yarrow",
        "Zelenka",
        "Abara",
        "Benoit",
        "Corrigan",
        "Delacroix",
        "Espinet",
        "Flett",
        "Garrick",
    ];

    public static IReadOnlyList<NewPerson> StudentsAndFamilies(string password)
    {
        var people = new List<NewPerson>();
        for (var at = 0; at < Students; at++)
        {
            // Steps that have no factor in common with the lists' length, so that no name comes twice.
            var (first, last) = (First[at * 7 % First.Length], Last[(at * 11 + at / First.Length) % Last.Length]);
            people.Add(
                new NewPerson(
                    $"{first} {last}",
                    $"{Ascii(first)}.{Ascii(last)}@students.skerry.example",
                    SchoolRole.Student,
                    at == 0 ? password : null
                )
            );
        }

        // Every second student's family has an address of its own; the others share the school's letters.
        for (var at = 0; at < Students; at += 2)
            people.Add(
                new NewPerson(
                    $"Family of {people[at].Name}",
                    people[at].Email.Replace("@students.", "@families.", StringComparison.Ordinal),
                    SchoolRole.Family,
                    at == 0 ? password : null
                )
            );
        return people;
    }

    private static string Ascii(string name) => name.ToLowerInvariant();
}
