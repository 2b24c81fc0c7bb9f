namespace JollyAlmanac.Core.Calendars;

/// <summary>The twelve colours of marks, told apart by colour-blind eyes in their lightness as much as in their hue.</summary>
public enum MarkColour
{
#pragma warning disable CS1591 // The names say it.
    Juniper,
    Ochre,
    Beet,
    Harbour,
    Rust,
    Plum,
    Lagoon,
    Moss,
    Slate,
    Rose,
    Ink,
    Sand,
#pragma warning restore CS1591
}

/// <summary>The twelve shapes of marks, so that a sheet printed without colour still reads.</summary>
public enum MarkShape
{
#pragma warning disable CS1591 // The names say it.
    Disc,
    Triangle,
    Frame,
    Diamond,
    Ring,
    Cross,
    Star,
    Moon,
    Hexagon,
    Bars,
    Chevron,
    Drop,
#pragma warning restore CS1591
}

/// <summary>What a calendar is known by at a glance.</summary>
public readonly record struct Mark(MarkColour Colour, MarkShape Shape)
{
    /// <summary>The colour for paper and light screens as #rrggbb.</summary>
    public string Hex =>
        Colour switch
        {
            MarkColour.Juniper => "#176350",
            MarkColour.Ochre => "#8a5a12",
            MarkColour.Beet => "#9a2456",
            MarkColour.Harbour => "#3b5b8c",
            MarkColour.Rust => "#b5451b",
            MarkColour.Plum => "#5c2f86",
            MarkColour.Lagoon => "#0c7f92",
            MarkColour.Moss => "#5f7a1d",
            MarkColour.Slate => "#55636b",
            MarkColour.Rose => "#c0507d",
            MarkColour.Ink => "#1d2a52",
            MarkColour.Sand => "#a57c1f",
            _ => throw new InvalidOperationException("A colour without a value."),
        };

    /// <summary>The outline of the shape in a square of 16, as path data of SVG 2 §9.3, filled by the even-odd rule.</summary>
    public string Outline =>
        Shape switch
        {
            MarkShape.Disc => "M8 1a7 7 0 1 0 0 14A7 7 0 0 0 8 1z",
            MarkShape.Triangle => "M8 1l7 14H1z",
            MarkShape.Frame => "M1.5 1.5h13v13h-13zM5 5v6h6V5z",
            MarkShape.Diamond => "M8 .5L15.5 8 8 15.5.5 8z",
            MarkShape.Ring => "M8 1a7 7 0 1 0 0 14A7 7 0 0 0 8 1zm0 3.4a3.6 3.6 0 1 1 0 7.2 3.6 3.6 0 0 1 0-7.2z",
            MarkShape.Cross => "M5.5 1h5v4.5H15v5h-4.5V15h-5v-4.5H1v-5h4.5z",
            MarkShape.Star => "M8 .6l2.2 4.9 5.3.6-3.9 3.6 1 5.3L8 12.4 3.4 15l1-5.3L.5 6.1l5.3-.6z",
            MarkShape.Moon => "M10.8 1.2A7 7 0 1 0 15 11a6 6 0 0 1-4.2-9.8z",
            MarkShape.Hexagon => "M4.2 1.4h7.6L15.6 8l-3.8 6.6H4.2L.4 8z",
            MarkShape.Bars => "M2 1h4.6v14H2zM9.4 1H14v14H9.4z",
            MarkShape.Chevron => "M8 2.2l7.4 8.2-2.9 2.9L8 8.2l-4.5 5.1-2.9-2.9z",
            MarkShape.Drop => "M8 .5c3.2 4.1 5.3 6.5 5.3 9.3a5.3 5.3 0 0 1-10.6 0C2.7 7 4.8 4.6 8 .5z",
            _ => throw new InvalidOperationException("A shape without an outline."),
        };

    /// <summary>The nearest CSS3 colour name, which is all that RFC 7986 §5.9 allows in COLOR.</summary>
    public string CssName =>
        Colour switch
        {
            MarkColour.Juniper => "darkgreen",
            MarkColour.Ochre => "saddlebrown",
            MarkColour.Beet => "mediumvioletred",
            MarkColour.Harbour => "steelblue",
            MarkColour.Rust => "orangered",
            MarkColour.Plum => "indigo",
            MarkColour.Lagoon => "darkcyan",
            MarkColour.Moss => "olivedrab",
            MarkColour.Slate => "slategray",
            MarkColour.Rose => "palevioletred",
            MarkColour.Ink => "midnightblue",
            MarkColour.Sand => "darkgoldenrod",
            _ => throw new InvalidOperationException("A colour without a name."),
        };

    /// <summary>One fewer than there are marks: among so many, one at least is not used.</summary>
    public const int Neighbours = 12 * 12 - 1;

    /// <summary>A mark that none of the latest calendars has, so that a new one differs from its neighbours.</summary>
    /// <param name="latest">The marks of at most <see cref="Neighbours"/> calendars, in any order.</param>
    /// <exception cref="InvalidOperationException">They are more, and have every mark among them.</exception>
    public static Mark Next(IEnumerable<Mark> latest)
    {
        var used = latest.ToHashSet();
        // Shape and colour step at different rates, so neighbours differ in both.
        return Enumerable
            .Range(0, Neighbours + 1)
            .Select(turn => new Mark((MarkColour)(turn % 12), (MarkShape)((turn + turn / 12) % 12)))
            .First(mark => !used.Contains(mark));
    }
}
