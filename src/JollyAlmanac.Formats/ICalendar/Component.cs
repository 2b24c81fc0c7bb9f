using System.Text;

namespace JollyAlmanac.Formats.ICalendar;

/// <summary>
/// A component of RFC 5545 §3.4: lines, and components within. The middle layer between lines and what they mean.
/// </summary>
public sealed class Component(string name)
{
    private readonly List<ContentLine> lines = [];
    private readonly List<Component> parts = [];

    /// <summary>What kind it is, in capitals: "VEVENT".</summary>
    public string Name => name;

    /// <summary>The line of the file that it begins on, from 1; 0 for one that was not read.</summary>
    public int Number { get; init; }

    /// <summary>Its own lines, in order.</summary>
    public IReadOnlyList<ContentLine> Lines => lines;

    /// <summary>The components within, in order.</summary>
    public IReadOnlyList<Component> Parts => parts;

    /// <summary>Its first line of that name; null where there is none.</summary>
    public ContentLine? Find(string property) => lines.Find(line => line.Name == property);

    /// <summary>Adds a line.</summary>
    public void Add(string property, string value, params (string Name, string Value)[] parameters) =>
        lines.Add(new ContentLine(property, value, parameters));

    /// <summary>Adds a line.</summary>
    public void Add(ContentLine line) => lines.Add(line);

    /// <summary>Adds a component within.</summary>
    public void Add(Component part) => parts.Add(part);

    /// <summary>
    /// Adds the lines and components of another, but the one that says which it is; its own lines of the same names go.
    /// </summary>
    public void TakeOver(Component other)
    {
        var taken = other.Lines.Where(line => line.Name != "RECURRENCE-ID").ToList();
        lines.RemoveAll(line => taken.Exists(one => one.Name == line.Name));
        lines.AddRange(taken);
        parts.AddRange(other.Parts);
    }

    /// <summary>The whole document as text, with CRLF line ends.</summary>
    public override string ToString()
    {
        var document = new StringBuilder(2048);
        WriteTo(document);
        return document.ToString();
    }

    private void WriteTo(StringBuilder document)
    {
        new ContentLine("BEGIN", name).WriteTo(document);
        foreach (var line in lines)
            line.WriteTo(document);
        foreach (var part in parts)
            part.WriteTo(document);
        new ContentLine("END", name).WriteTo(document);
    }
}
