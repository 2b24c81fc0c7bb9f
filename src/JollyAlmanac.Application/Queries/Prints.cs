using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Application.Joining;
using JollyAlmanac.Application.Publishing;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Formats.Drawing;
using Microsoft.Extensions.Caching.Memory;
using NodaTime;

namespace JollyAlmanac.Application.Queries;

/// <summary>Which sheet of a calendar is printed.</summary>
public enum PrintedSheet
{
    /// <summary>The term around today.</summary>
    Term,

    /// <summary>This week, by the bells.</summary>
    Week,

    /// <summary>The next month, a line a session.</summary>
    List,
}

/// <summary>A picture as it was drawn.</summary>
/// <param name="Bytes">SVG in UTF-8, or PNG.</param>
/// <param name="Tag">The same for the same picture, and for no other: an entity tag without its quotes.</param>
public sealed record DrawnPicture(byte[] Bytes, string Tag);

/// <summary>Gives sheets out for paper, and pictures of panels. The letters are read when the first is made.</summary>
/// <param name="printSheetQuery">Reads the sheet.</param>
/// <param name="schoolQuery">Reads the school.</param>
/// <param name="cards">Join cards.</param>
/// <param name="readEmbed">Panels.</param>
/// <param name="clock">What the time is.</param>
/// <param name="letters">Reads a font by its name.</param>
public sealed class Prints(
    PrintSheetQuery printSheetQuery,
    SchoolQuery schoolQuery,
    JoinCards cards,
    ReadEmbed readEmbed,
    IClock clock,
    Func<string, byte[]> letters
) : IDisposable
{
    private readonly Lazy<DrawingFonts> fonts = new(() =>
        new DrawingFonts(
            new FontFiles(letters("atkinson-hyperlegible-next-400"), letters("atkinson-hyperlegible-next-700")),
            new FontFiles(letters("dejavu-sans-condensed"), letters("dejavu-sans-condensed-bold"))
        )
    );

    private DrawingFonts Fonts => fonts.Value;

    /// <summary>A sheet of a calendar as PDF, as <see cref="PrintSheetQuery.Read"/> shows it; null where there is none for the viewer.</summary>
    /// <param name="viewer">Who prints.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="sheet">Which sheet.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <param name="squaresOf">The squares of an address's QR code, row by row.</param>
    public byte[]? Sheet(
        Viewer viewer,
        Slug slug,
        PrintedSheet sheet,
        Uri root,
        Func<Uri, IReadOnlyList<System.Collections.BitArray>> squaresOf
    ) =>
        SheetOf(viewer, slug, sheet, root, squaresOf) is { } drawing
            ? Fonts.ToPdf(drawing.Title, clock.GetCurrentInstant().ToDateTimeUtc(), drawing)
            : null;

    /// <summary>The most calendars whose sheets or cards are printed as one document.</summary>
    public const int Most = 300;

    /// <summary>The term sheets of several calendars as one PDF, a page each; null where there is none for the viewer.</summary>
    /// <param name="viewer">Who prints.</param>
    /// <param name="slugs">The calendars; those without a term sheet for the viewer are left out.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <param name="squaresOf">The squares of an address's QR code, row by row.</param>
    public byte[]? TermSheets(
        Viewer viewer,
        IEnumerable<Slug> slugs,
        Uri root,
        Func<Uri, IReadOnlyList<System.Collections.BitArray>> squaresOf
    ) =>
        Together(
            "Term sheets",
            slugs.Take(Most).Select(slug => SheetOf(viewer, slug, PrintedSheet.Term, root, squaresOf))
        );

    /// <summary>The join cards of several calendars as one PDF, a page each; null where the viewer works no door of them.</summary>
    /// <param name="viewer">Who prints.</param>
    /// <param name="slugs">The calendars.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <param name="squaresOf">The squares of an address's QR code, row by row.</param>
    public byte[]? Cards(
        Viewer viewer,
        IEnumerable<Slug> slugs,
        Uri root,
        Func<Uri, IReadOnlyList<System.Collections.BitArray>> squaresOf
    ) =>
        Together(
            "Join cards",
            slugs
                .Take(Most)
                .SelectMany(slug => cards.On(viewer, slug))
                .Take(Most)
                .Select(code => CardOf(viewer, code, root, squaresOf).OrNone)
        );

    private byte[]? Together(string title, IEnumerable<Drawing?> drawings) =>
        drawings.OfType<Drawing>().ToArray() is { Length: > 0 } pages
            ? Fonts.ToPdf(title, clock.GetCurrentInstant().ToDateTimeUtc(), pages)
            : null;

    private Drawing? SheetOf(
        Viewer viewer,
        Slug slug,
        PrintedSheet sheet,
        Uri root,
        Func<Uri, IReadOnlyList<System.Collections.BitArray>> squaresOf
    )
    {
        if (printSheetQuery.Read(viewer, slug) is not { } print || (sheet == PrintedSheet.Term && print.Term is null))
            return null;
        var (mark, zone) = (print.Calendar.Mark, Wording.Place(print.School.Time.Zone));
        var today = print.Now.InZone(print.School.Time.Zone).Date;
        SheetHead Head(string beside) =>
            new(
                print.Calendar.Title,
                $"{beside} · {zone} time",
                print.School.Name,
                today,
                $"{root.Authority}{root.AbsolutePath}c/{print.Calendar.Slug}"
            )
            {
                Squares = squaresOf(new Uri(root, $"c/{print.Calendar.Slug}")),
            };
        return sheet switch
        {
            PrintedSheet.Term => Sheets.Term(
                print.Term!,
                Head(
                    $"{print.Term!.Term.Name}, {Wording.WithYear(print.Term.Term.First)} to {Wording.WithYear(print.Term.Term.Last)}"
                ),
                mark,
                Fonts
            ),
            PrintedSheet.Week => Sheets.Week(
                print.Week,
                Head($"the week of {Wording.WithYear(print.Week.Days[0])}"),
                mark,
                Fonts
            ),
            _ => Sheets.List(print.List, Head($"from {Wording.WithYear(today)}, a month"), mark, Fonts),
        };
    }

    /// <summary>
    /// A join card as PDF: the short address with what anyone may know, as paper hangs where all pass by.
    /// </summary>
    /// <param name="viewer">Who prints.</param>
    /// <param name="code">The link.</param>
    /// <param name="root">Where the almanac is reached; ends in "/".</param>
    /// <param name="squaresOf">The squares of an address's QR code, row by row.</param>
    public Outcome<byte[]> Card(
        Viewer viewer,
        JoinCode code,
        Uri root,
        Func<Uri, IReadOnlyList<System.Collections.BitArray>> squaresOf
    ) =>
        CardOf(viewer, code, root, squaresOf)
            .Select(drawing => Fonts.ToPdf(drawing.Title, clock.GetCurrentInstant().ToDateTimeUtc(), drawing));

    private Outcome<Drawing> CardOf(
        Viewer viewer,
        JoinCode code,
        Uri root,
        Func<Uri, IReadOnlyList<System.Collections.BitArray>> squaresOf
    ) =>
        cards
            .Of(
                viewer,
                code,
                root,
                CardParts.Title | CardParts.When | CardParts.Door | CardParts.WhatToDo | CardParts.Contact
            )
            .Select(kept =>
            {
                var school = schoolQuery.Find()!;
                var address = kept.Link.Code.At(root);
                var shown = $"{address.Authority}{address.AbsolutePath}";
                var now = clock.GetCurrentInstant();
                var head = new SheetHead(
                    kept.Title,
                    "join card",
                    school.Name,
                    now.InZone(school.Time.Zone).Date,
                    shown
                );
                return Sheets.Card(
                    head,
                    shown,
                    [
                        .. kept
                            .Card.Lines.Where(line => line.Text != kept.Title)
                            .Select(line => line.Label.Length > 0 ? $"{line.Label}: {line.Text}" : line.Text),
                        .. kept.Teacher.Length > 0 ? [$"Teacher: {kept.Teacher}"] : Array.Empty<string>(),
                        "Scan it, or type the address. It leads to the right room while the door is open, and says when that is.",
                    ],
                    squaresOf(address),
                    kept.Mark,
                    Fonts
                );
            });

    /// <summary>The picture of a panel as SVG; null for a token that is unknown, revoked or renewed.</summary>
    public DrawnPicture? Svg(FeedToken token) =>
        Drawn(token, "svg", drawing => Encoding.UTF8.GetBytes(drawing.ToSvg(Fonts)));

    /// <summary>The picture of a panel as PNG; null for a token that is unknown, revoked or renewed.</summary>
    public DrawnPicture? Png(FeedToken token) => Drawn(token, "png", drawing => Fonts.ToPng(drawing));

    // Drawn once while the panel stands as it does, and one at a time: anybody may ask for it, with a cookie or without.
    private DrawnPicture? Drawn(FeedToken token, string form, Func<Drawing, byte[]> draw)
    {
        if (readEmbed.StateVersionOf(token) is not { } stateVersion)
            return null;
        var key = (token, form, stateVersion, clock.GetCurrentInstant().ToUnixTimeSeconds() / 60);
        if (drawn.TryGetValue(key, out DrawnPicture? known))
            return known;
        lock (drawing)
        {
            if (drawn.TryGetValue(key, out known))
                return known;
            if (Panel(token) is not { } panel)
                return null;
            var bytes = draw(panel);
            return drawn.Set(
                key,
                new DrawnPicture(bytes, Convert.ToHexStringLower(SHA256.HashData(bytes).AsSpan(0, 12))),
                new MemoryCacheEntryOptions { Size = 1, AbsoluteExpirationRelativeToNow = TimeSpan.FromMinutes(2) }
            );
        }
    }

    private readonly MemoryCache drawn = new(new MemoryCacheOptions { SizeLimit = 60 });
    private readonly Lock drawing = new();

    private Drawing? Panel(FeedToken token) =>
        readEmbed.Do(token, asAgenda: true) is not { } panel
            ? null
            : Sheets.Panel(
                panel.Coming,
                new SheetHead(panel.Title, "", panel.School.Name, panel.Now.InZone(panel.School.Time.Zone).Date, ""),
                panel.Zone,
                panel.Mark,
                Fonts
            );

    /// <inheritdoc />
    public void Dispose()
    {
        drawn.Dispose();
        if (fonts.IsValueCreated)
            fonts.Value.Dispose();
    }
}
