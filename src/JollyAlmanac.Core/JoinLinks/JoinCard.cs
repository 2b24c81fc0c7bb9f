using System.Net;
using System.Text;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>A part of the join details that somebody chose for a place.</summary>
[Flags]
public enum CardParts
{
    /// <summary>The short address alone.</summary>
    None = 0,

    /// <summary>What the class is called.</summary>
    Title = 1,

    /// <summary>When it meets.</summary>
    When = 2,

    /// <summary>When the door is open.</summary>
    Door = 4,

    /// <summary>The meeting id.</summary>
    MeetingId = 8,

    /// <summary>The passcode.</summary>
    Passcode = 16,

    /// <summary>Telephone numbers.</summary>
    DialIn = 32,

    /// <summary>What to do, for whoever enters.</summary>
    WhatToDo = 64,

    /// <summary>Whom to ask.</summary>
    Contact = 128,
}

/// <summary>What a join card can say besides what is behind the link.</summary>
/// <param name="Title">What the class is called.</param>
/// <param name="When">When it meets, in words.</param>
/// <param name="Door">When the door is open, in words.</param>
public sealed record CardText(string Title, string When, string Door)
{
    /// <summary>What to do, for whoever enters; may have several lines.</summary>
    public string WhatToDo { get; init; } = "";

    /// <summary>Whom to ask.</summary>
    public string Contact { get; init; } = "";

    /// <summary>The words of the link; empty for <see cref="JoinCard.UsualWords"/>.</summary>
    public string LinkWords { get; init; } = "";
}

/// <summary>
/// The ready-to-paste form of the join details. The short address always stands in it; meeting id, passcode and telephone
/// numbers only where somebody chose so for that place.
/// </summary>
/// <param name="Address">The short address, absolute.</param>
/// <param name="Lines">The chosen parts, label and text; a label may be empty.</param>
public sealed record JoinCard(Uri Address, IReadOnlyList<(string Label, string Text)> Lines)
{
    /// <summary>The words of a link where nobody chose others.</summary>
    public const string UsualWords = "Join";

    /// <summary>The most characters of the words of a link.</summary>
    public const int LongestWords = 60;

    /// <summary>The words of the link.</summary>
    public string LinkWords { get; init; } = UsualWords;

    /// <summary>Puts a card together.</summary>
    /// <param name="address">The short address, absolute.</param>
    /// <param name="text">What it can say.</param>
    /// <param name="target">Read only for the parts that are chosen.</param>
    /// <param name="parts">The parts chosen.</param>
    public static JoinCard Of(Uri address, CardText text, JoinTarget target, CardParts parts)
    {
        var lines = new List<(string, string)>();
        Add(CardParts.Title, "", text.Title);
        Add(CardParts.When, "", text.When);
        Add(CardParts.Door, "Door", text.Door);
        Add(CardParts.MeetingId, "Meeting id", target.MeetingId);
        Add(CardParts.Passcode, "Passcode", target.Passcode);
        Add(CardParts.DialIn, "By telephone", string.Join("; ", target.DialIn));
        Add(CardParts.WhatToDo, "What to do", text.WhatToDo.Replace("\n", " ", StringComparison.Ordinal));
        Add(CardParts.Contact, "Ask", text.Contact.Replace("\n", ", ", StringComparison.Ordinal));
        return new JoinCard(address, lines) { LinkWords = text.LinkWords.Length > 0 ? text.LinkWords : UsualWords };

        void Add(CardParts part, string label, string line)
        {
            if (parts.HasFlag(part) && line.Length > 0)
                lines.Add((label, line));
        }
    }

    /// <summary>Plain text, a line a part.</summary>
    public string Text
    {
        get
        {
            var text = new StringBuilder();
            foreach (var (label, line) in Lines.TakeWhile(line => line.Label.Length == 0))
                text.Append(line).Append('\n');
            text.Append(Lines.Count == 0 && LinkWords == UsualWords ? "" : $"{LinkWords}: ").Append(Address);
            foreach (var (label, line) in Lines.SkipWhile(line => line.Label.Length == 0))
                text.Append('\n').Append(label).Append(": ").Append(line);
            return text.ToString();
        }
    }

    /// <summary>HTML for a page or a mail: one paragraph, everything encoded.</summary>
    public string Html
    {
        get
        {
            var html = new StringBuilder("<p>");
            foreach (var (_, line) in Lines.TakeWhile(line => line.Label.Length == 0))
                html.Append(html.Length == 3 ? $"<strong>{Encoded(line)}</strong>" : Encoded(line)).Append("<br>\n");
            html.Append(
                System.Globalization.CultureInfo.InvariantCulture,
                $"<a href=\"{Encoded(Address.AbsoluteUri)}\">{Encoded(LinkWords)}: {Encoded(Bare)}</a>"
            );
            foreach (var (label, line) in Lines.SkipWhile(line => line.Label.Length == 0))
                html.Append("<br>\n").Append(label).Append(": ").Append(Encoded(line));
            return html.Append("</p>").ToString();
        }
    }

    /// <summary>For places with few characters: the address without its scheme, and the passcode where it is chosen.</summary>
    public string Brief =>
        Lines.FirstOrDefault(line => line.Label == "Passcode") is { Text: { } passcode }
            ? $"{Bare} ({passcode})"
            : Bare;

    private string Bare => Address.Authority + Address.AbsolutePath;

    private static string Encoded(string text) => WebUtility.HtmlEncode(text);
}
