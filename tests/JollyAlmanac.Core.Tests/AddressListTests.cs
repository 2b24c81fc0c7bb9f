using JollyAlmanac.Core.Parsing;

namespace JollyAlmanac.Core.Tests;

/// <summary>
/// Lists of addresses as people paste them. The forms of a recipient are those of RFC 5322 §3.4; the lists are common practice.
/// </summary>
public class AddressListTests
{
    [Theory]
    [InlineData("orla@skerry.example", "orla@skerry.example")]
    [InlineData("Orla Marchbanks <orla@skerry.example>", "Orla Marchbanks orla@skerry.example")]
    [InlineData("\"Quill, Teodor\" <teodor@skerry.example>", "Teodor Quill teodor@skerry.example")]
    [InlineData(
        "Quill, Teodor <teodor@skerry.example>; Orla <orla@skerry.example>",
        "Teodor Quill teodor@skerry.example|Orla orla@skerry.example"
    )]
    [InlineData(
        "orla@skerry.example, teodor@skerry.example;eilidh@skerry.example",
        "orla@skerry.example|teodor@skerry.example|eilidh@skerry.example"
    )]
    [InlineData("orla@skerry.example teodor@skerry.example", "orla@skerry.example|teodor@skerry.example")]
    [InlineData("Teodor Quill\tteodor@skerry.example", "Teodor Quill teodor@skerry.example")]
    [InlineData("teodor@skerry.example\tTeodor Quill", "Teodor Quill teodor@skerry.example")]
    [InlineData("teodor@skerry.example,Quill,Teodor", "Teodor Quill teodor@skerry.example")]
    [InlineData(
        "1. Orla Marchbanks (orla@skerry.example)\n2) Teodor: teodor@skerry.example.",
        "Orla Marchbanks orla@skerry.example|Teodor teodor@skerry.example"
    )]
    [InlineData("- mailto:orla@skerry.example", "orla@skerry.example")]
    [InlineData("Zoë Ó Súilleabháin <zoë@skole.example>", "Zoë Ó Súilleabháin zoë@skole.example")]
    [InlineData("<orla.m+9a@mail.skerry.example>,\r\n\r\n", "orla.m+9a@mail.skerry.example")]
    public void Lists(string text, string people)
    {
        var list = AddressList.Read(text);
        Assert.Equal(people, string.Join('|', list.People.Select(one => $"{one.Name} {one.Address}".Trim())));
        Assert.Empty(list.Problems);
    }

    [Theory]
    [InlineData("Orla Marchbanks", "no e-mail address in “Orla Marchbanks”")]
    [InlineData("orla@skerry", "“orla@skerry” is no")]
    [InlineData("orla@@skerry.example", "is no")]
    [InlineData("@skerry.example", "is no")]
    [InlineData("orla@", "is no")]
    [InlineData("orla@skerry..example", "is no")]
    [InlineData("orla@-skerry.example", "is no")]
    [InlineData("Orla <orla@skerry.example> Teodor", "“Teodor” belongs to no")]
    [InlineData("Name\tE-mail", "no e-mail address in")]
    public void What_is_none_is_told(string text, string problem) =>
        Assert.Contains(problem, Assert.Single(AddressList.Read(text).Problems).Sentence, StringComparison.Ordinal);

    [Fact]
    public void Who_stands_there_again_counts_once()
    {
        var list = AddressList.Read(
            "orla@skerry.example\nOrla <ORLA@Skerry.example>\nteodor@skerry.example, orla@skerry.example"
        );
        Assert.Equal((2, 2), (list.People.Length, list.Doubles));
        Assert.Equal([1, 3], list.People.Select(one => one.Line));
    }
}
