namespace JollyAlmanac.Core.Calendars;

/// <summary>The twelve colours of marks, told apart by colour-blind eyes in their lightness as much as in their hue.</summary>
public enum MarkColour
{
#pragma warning disable CS1591 // The names say it.
    Juniper, Ochre, Beet, Harbour, Rust, Plum, Lagoon, Moss, Slate, Rose, Ink, Sand,
#pragma warning restore CS1591
}

/// <summary>The twelve shapes of marks, so that a sheet printed without colour still reads.</summary>
public enum MarkShape
{
#pragma warning disable CS1591 // The names say it.
    Disc, Triangle, Frame, Diamond, Ring, Cross, Star, Moon, Hexagon, Bars, Chevron, Drop,
#pragma warning restore CS1591
}

/// <summary>What a calendar is known by at a glance.</summary>
public readonly record struct Mark(MarkColour Colour, MarkShape Shape)
{
    /// <summary>The colour for paper and light screens as #rrggbb.</summary>
    public string Hex => Colour switch
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

    /// <summary>The nearest CSS3 colour name, which is all that RFC 7986 §5.9 allows in COLOR.</summary>
    public string CssName => Colour switch
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
        return Enumerable.Range(0, Neighbours + 1).Select(turn => new Mark((MarkColour)(turn % 12), (MarkShape)((turn + turn / 12) % 12)))
            .First(mark => !used.Contains(mark));
    }
}
