using System.Collections;
using System.Collections.Immutable;
using System.Globalization;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Core.Sheets;
using NodaTime;

namespace JollyAlmanac.Formats.Drawing;

/// <summary>What a sheet says above and below.</summary>
/// <param name="Title">Its heading.</param>
/// <param name="Beside">What stands beside that: the term, the week.</param>
/// <param name="School">The school.</param>
/// <param name="Made">The day it was made.</param>
/// <param name="Live">Where what is so now stands.</param>
public sealed record SheetHead(string Title, string Beside, string School, LocalDate Made, string Live)
{
    /// <summary>The squares of the QR code of where what is so now stands, row by row; none for a sheet that has no room for it.</summary>
    public IReadOnlyList<BitArray> Squares { get; init; } = [];
}

/// <summary>Lays sheets out: the term, a week by bells and a list on A4, a join card on A5, and the picture of a panel.</summary>
public static class Sheets
{
    private const double Rim = 34;

    // 17 mm: a phone reads it at arm's length.
    private const double CodeSide = 48;
    private const string Wash = "#e9efee";
    private const string Hatch = "#dde6e3";

    /// <summary>A term on one page, a row a week.</summary>
    public static Drawing Term(TermSheet sheet, SheetHead head, Mark mark, DrawingFonts fonts)
    {
        var (width, height) = (842.0, 595.0);
        var strokes = Framed(head, width, height, mark, fonts);
        var (top, left, right, bottom) = (78.0, Rim, width - Rim, height - 54);
        var label = 26.0;
        var total = 56.0;
        var column = (right - left - label - total) / sheet.Columns.Length;
        for (var at = 0; at < sheet.Columns.Length; at++)
            strokes.Add(
                new Stroke.Text(left + label + at * column + 3, top - 5, 9, Wording.Brief(sheet.Columns[at]), true)
            );
        var row = Math.Min(34, (bottom - top) / Math.Max(1, sheet.Weeks.Length));
        for (var at = 0; at <= sheet.Columns.Length; at++)
            strokes.Add(
                new Stroke.Line(
                    left + label + at * column,
                    top,
                    left + label + at * column,
                    top + sheet.Weeks.Length * row,
                    Hatch,
                    0.5
                )
            );
        for (var week = 0; week < sheet.Weeks.Length; week++)
        {
            var y = top + week * row;
            strokes.Add(new Stroke.Line(left, y, right, y));
            strokes.Add(
                new Stroke.Text(left, y + 11, 9, sheet.Weeks[week].Number.ToString(CultureInfo.InvariantCulture), true)
            );
            for (var at = 0; at < sheet.Weeks[week].Days.Length; at++)
                Cell(
                    strokes,
                    sheet.Weeks[week].Days[at],
                    sheet,
                    mark,
                    left + label + at * column,
                    y,
                    column,
                    row,
                    fonts
                );
            if (sheet.Weeks[week].Sessions > 0)
                strokes.Add(
                    new Stroke.Text(
                        right,
                        y + 11,
                        8,
                        $"{sheet.Weeks[week].Sessions} · {Wording.Amount(sheet.Weeks[week].Minutes)}",
                        false,
                        Stroke.Soft,
                        Anchor.End
                    )
                );
        }

        var end = top + sheet.Weeks.Length * row;
        strokes.Add(new Stroke.Line(left, end, right, end, Stroke.Ink, 1));
        var ledger = sheet.Ledger;
        strokes.Add(
            new Stroke.Text(
                left,
                end + 13,
                9,
                $"{Wording.Count(ledger.Sessions, "session", "sessions")}, {Wording.Amount(ledger.Minutes)} with the class{(ledger.LeftOut > 0 ? $"; {Wording.Count(ledger.LeftOut, "no-class day", "no-class days")} left out" : "")}{(ledger.Cancelled > 0 ? $"; {ledger.Cancelled} cancelled" : "")}",
                true
            )
        );
        return new Drawing(width, height, $"{head.Title}, {head.Beside}", [.. strokes]);
    }

    private static void Cell(
        List<Stroke> strokes,
        SheetDay day,
        TermSheet sheet,
        Mark mark,
        double x,
        double y,
        double width,
        double height,
        DrawingFonts fonts
    )
    {
        if (!day.InTerm)
            return;
        if (day.NoClass is not null)
            strokes.Add(new Stroke.Box(x + 0.5, y + 0.5, width - 1, height - 1, Hatch));
        // The date first and small, as on the term sheet; mark and number together and large.
        var date =
            day.Date.Day == 1 || day.Date == sheet.Term.First
                ? Wording.Brief(day.Date)
                : day.Date.Day.ToString(CultureInfo.InvariantCulture);
        strokes.Add(new Stroke.Text(x + 3, y + 9, 7, date, false, Stroke.Soft));
        if (day.NoClass is { } off)
        {
            var from = x + 6 + fonts.Width(date, 7, false);
            strokes.Add(
                new Stroke.Text(from, y + 9, 7, fonts.Fit(off.Name, 7, false, x + width - 3 - from), false, Stroke.Soft)
            );
        }

        // As many beside each other as there is room for, each with its number, and its time where that is not the usual.
        var (left, line) = (x + 3, y + Math.Min(height - 4, 24));
        var several = day.Sessions.Length > 1;
        var size = several ? 9.0 : Math.Min(13, height - 14);
        if (size < 7)
            (size, line) = (8, y + height - 4);
        for (var at = 0; at < day.Sessions.Length; at++)
        {
            var shown = day.Sessions[at];
            var isOff = shown.Session.IsCancelled;
            var colour = isOff ? Stroke.Soft : Stroke.Ink;
            var number =
                shown.IsBusyOnly ? "busy"
                : shown.Number is { } held ? held.ToString(CultureInfo.InvariantCulture)
                : "";
            var time = shown.Session.IsAllDay ? "all day" : Wording.Of(shown.Session.StartAtSchool.TimeOfDay);
            var words =
                isOff ? $"{time} cancelled"
                : shown.State.Length > 0 ? $"{time} not certain"
                : shown.Session.Change?.Title is { } own && !shown.IsBusyOnly ? $"{time} {own}"
                : time;
            var needed = size + 3 + fonts.Width(number, size, true) + 4 + (several ? 0 : 24);
            if (left + needed > x + width && left > x + 3)
            {
                strokes.Add(
                    new Stroke.Text(
                        x + width - 2,
                        y + 9,
                        7,
                        $"+{day.Sessions.Length - at}",
                        true,
                        Stroke.Soft,
                        Anchor.End
                    )
                );
                break;
            }

            strokes.Add(new Stroke.Shape(left, line - size * 0.82, size * 0.82, mark, isOff ? Stroke.Soft : mark.Hex));
            left += size * 0.82 + 3;
            strokes.Add(new Stroke.Text(left, line, size, number, true, colour));
            if (isOff && number.Length > 0)
                strokes.Add(
                    new Stroke.Line(
                        left,
                        line - size * 0.35,
                        left + fonts.Width(number, size, true),
                        line - size * 0.35,
                        Stroke.Soft
                    )
                );
            left += fonts.Width(number, size, true) + (number.Length > 0 ? 4 : 0);
            if (several && at < day.Sessions.Length - 1 && !isOff)
                words = "";
            var fits = fonts.Fit(words, 7, false, x + width - 2 - left);
            strokes.Add(new Stroke.Text(left, line, 7, fits, false, Stroke.Soft));
            left += fonts.Width(fits, 7, false) + 5;
        }
    }

    /// <summary>A week on one page, by the bells.</summary>
    public static Drawing Week(WeekSheet sheet, SheetHead head, Mark mark, DrawingFonts fonts)
    {
        var (width, height) = (842.0, 595.0);
        var strokes = Framed(head, width, height, mark, fonts);
        var (top, left, right, bottom, label) = (78.0, Rim, width - Rim, height - 44, 54.0);
        var column = (right - left - label) / Math.Max(1, sheet.Days.Length);
        for (var at = 0; at < sheet.Days.Length; at++)
            strokes.Add(
                new Stroke.Text(left + label + at * column + 3, top - 5, 10, Wording.WithWeekday(sheet.Days[at]), true)
            );
        var rows =
            sheet.Rows.Length == 0
                ? [new WeekRow(null, "", [.. sheet.Days.Select(_ => ImmutableArray<WeekSession>.Empty)])]
                : sheet.Rows;
        var row = Math.Min(70, (bottom - top) / rows.Length);
        for (var at = 0; at < rows.Length; at++)
        {
            var y = top + at * row;
            strokes.Add(new Stroke.Line(left, y, right, y));
            strokes.Add(new Stroke.Text(left, y + 13, 11, rows[at].Label, true));
            if (rows[at].Period is { } bell)
                strokes.Add(new Stroke.Text(left, y + 24, 8, Wording.Of(bell.Start), false, Stroke.Soft));
            for (var day = 0; day < rows[at].Days.Length; day++)
            {
                var line = y + 12;
                foreach (var one in rows[at].Days[day])
                {
                    if (line + 10 > y + row)
                        break;
                    var x = left + label + day * column + 3;
                    strokes.Add(
                        new Stroke.Text(
                            x,
                            line,
                            9,
                            fonts.Fit(one.Shown.Title, 9, true, column - 6),
                            true,
                            one.IsHeld ? Stroke.Ink : Stroke.Soft
                        )
                    );
                    var under =
                        $"{SayBack.Span(one.Shown.Session)}{(one.IsHeld ? "" : ", cancelled")}{(one.Shown.Place.Length > 0 ? $", {one.Shown.Place}" : "")}";
                    strokes.Add(
                        new Stroke.Text(x, line + 10, 8, fonts.Fit(under, 8, false, column - 6), false, Stroke.Soft)
                    );
                    line += 23;
                }
            }
        }

        strokes.Add(new Stroke.Line(left, top + rows.Length * row, right, top + rows.Length * row, Stroke.Ink, 1));
        return new Drawing(width, height, $"{head.Title}, {head.Beside}", [.. strokes]);
    }

    /// <summary>Sessions on one page, a line each.</summary>
    public static Drawing List(IReadOnlyList<ShownSession> sessions, SheetHead head, Mark mark, DrawingFonts fonts)
    {
        var (width, height) = (595.0, 842.0);
        var strokes = Framed(head, width, height, mark, fonts);
        var (y, left, right, bottom) = (84.0, Rim, width - Rim, height - 50);
        var most = (int)((bottom - y) / 17);
        foreach (var shown in sessions.Take(sessions.Count > most ? most - 1 : most))
        {
            var session = shown.Session;
            var soft = session.IsCancelled ? Stroke.Soft : Stroke.Ink;
            strokes.Add(new Stroke.Text(left, y + 10, 10, Wording.WithWeekday(session.Day), true, soft));
            strokes.Add(
                new Stroke.Text(left + 78, y + 10, 10, fonts.Fit(SayBack.Span(session), 10, false, 96), false, soft)
            );
            var said =
                $"{(shown.Number is { } number ? $"{number}  " : "")}{shown.Title}{(shown.State.Length > 0 ? $" ({shown.State})" : "")}{(shown.Place.Length > 0 ? $", {shown.Place}" : "")}{(shown.Note.Length > 0 ? $": {shown.Note}" : "")}";
            strokes.Add(
                new Stroke.Text(left + 180, y + 10, 10, fonts.Fit(said, 10, false, right - left - 182), false, soft)
            );
            strokes.Add(new Stroke.Line(left, y + 14.5, right, y + 14.5));
            y += 17;
        }

        if (sessions.Count == 0)
            strokes.Add(new Stroke.Text(left, y + 10, 10, "Nothing is coming up in these days."));
        if (sessions.Count > most)
            strokes.Add(new Stroke.Text(left, y + 10, 10, $"and {sessions.Count - most + 1} more", false, Stroke.Soft));
        return new Drawing(width, height, $"{head.Title}, {head.Beside}", [.. strokes]);
    }

    /// <summary>A join card for the wall.</summary>
    /// <param name="head">Its heading.</param>
    /// <param name="address">The short address, as people type it.</param>
    /// <param name="says">Lines of what one does with it.</param>
    /// <param name="modules">The squares of its QR code, row by row.</param>
    /// <param name="mark">The calendar's mark.</param>
    /// <param name="fonts">The letters.</param>
    public static Drawing Card(
        SheetHead head,
        string address,
        IReadOnlyList<string> says,
        IReadOnlyList<BitArray> modules,
        Mark mark,
        DrawingFonts fonts
    )
    {
        var (width, height) = (420.0, 595.0);
        var strokes = Framed(head, width, height, mark, fonts);
        const double Side = 190;
        var (x0, y0, unit) = ((width - Side) / 2, 100.0, Side / modules.Count);
        strokes.AddRange(Squares(modules, x0, y0, unit));
        var size = 24.0;
        while (size > 9 && fonts.Width(address, size, true) > width - 2 * Rim)
            size -= 0.5;
        strokes.Add(new Stroke.Text(width / 2, y0 + Side + 40, size, address, true, Stroke.Ink, Anchor.Middle));
        var line = y0 + Side + 70;
        foreach (var text in says.SelectMany(one => fonts.Lines(one, 11, false, width - 2 * Rim)).Take(12))
        {
            strokes.Add(new Stroke.Text(Rim, line, 11, text));
            line += 16;
        }

        return new Drawing(width, height, $"Join card: {head.Title}", [.. strokes]);
    }

    /// <summary>The picture of a panel, for a place that takes no frame.</summary>
    /// <param name="sessions">What comes next.</param>
    /// <param name="head">Its heading.</param>
    /// <param name="zone">The zone its times are told in.</param>
    /// <param name="mark">The calendar's mark.</param>
    /// <param name="fonts">The letters.</param>
    public static Drawing Panel(
        IReadOnlyList<ShownSession> sessions,
        SheetHead head,
        DateTimeZone zone,
        Mark mark,
        DrawingFonts fonts
    )
    {
        const double Width = 340;
        var strokes = new List<Stroke>
        {
            new Stroke.Box(0, 0, 5, 34, mark.Hex),
            new Stroke.Text(14, 22, 15, fonts.Fit(head.Title, 15, true, Width - 26), true),
            new Stroke.Line(0, 34, Width, 34, Stroke.Ink, 1.2),
        };
        var y = 52.0;
        foreach (var shown in sessions.Take(10))
        {
            var session = shown.Session;
            var (start, end) = session.IsAllDay
                ? (session.Start, session.End)
                : (session.StartsAt.InZone(zone).LocalDateTime, session.EndsAt.InZone(zone).LocalDateTime);
            var span = session.IsAllDay ? SayBack.Span(session) : Wording.Span(start.TimeOfDay, end.TimeOfDay);
            strokes.Add(new Stroke.Text(12, y, 11, Wording.WithWeekday(start.Date), true));
            strokes.Add(new Stroke.Text(92, y, 11, fonts.Fit(span, 11, false, 92)));
            var said =
                $"{(shown.Title == head.Title && shown.Number is { } number ? $"no. {number}" : shown.Title)}{(shown.State.Length > 0 ? $" ({shown.State})" : "")}{(shown.Place.Length > 0 ? $", {shown.Place}" : "")}";
            strokes.Add(
                new Stroke.Text(
                    188,
                    y,
                    11,
                    fonts.Fit(said, 11, false, Width - 200),
                    false,
                    session.IsCancelled ? Stroke.Soft : Stroke.Ink
                )
            );
            y += 19;
        }

        if (sessions.Count == 0)
        {
            strokes.Add(new Stroke.Text(12, y, 11, "Nothing is coming up."));
            y += 19;
        }

        strokes.Add(new Stroke.Line(0, y - 8, Width, y - 8));
        strokes.Add(
            new Stroke.Text(
                12,
                y + 6,
                9,
                fonts.Fit($"{head.School} · {zone.Id} time · {Wording.WithYear(head.Made)}", 9, false, Width - 24),
                false,
                Stroke.Soft
            )
        );
        return new Drawing(
            Width,
            y + 16,
            $"{head.Title}: {string.Join("; ", sessions.Take(10).Select(shown => $"{Wording.WithWeekday(shown.Session.Day)} {SayBack.Span(shown.Session)} {shown.Title}"))}",
            [.. strokes]
        );
    }

    // The dark squares of a QR code, those beside each other as one.
    private static IEnumerable<Stroke> Squares(IReadOnlyList<BitArray> modules, double left, double top, double unit)
    {
        for (var y = 0; y < modules.Count; y++)
        for (var x = 0; x < modules.Count; x++)
        {
            if (!modules[y][x])
                continue;
            var run = 1;
            while (x + run < modules.Count && modules[y][x + run])
                run++;
            yield return new Stroke.Box(left + x * unit, top + y * unit, run * unit, unit, "#000000");
            x += run;
        }
    }

    private static List<Stroke> Framed(SheetHead head, double width, double height, Mark mark, DrawingFonts fonts)
    {
        // A long title is written smaller before it is cut.
        var code = head.Squares.Count > 0 ? CodeSide + 8 : 0;
        var (room, size) = (width - 2 * Rim - 20 - code, 18.0);
        while (size > 11 && fonts.Width(head.Title, size, true) > room)
            size -= 0.5;
        return
        [
            new Stroke.Shape(Rim, 25, 14, mark, mark.Hex),
            new Stroke.Text(Rim + 20, 38, size, fonts.Fit(head.Title, size, true, room), true),
            new Stroke.Text(Rim + 20, 53, 10, fonts.Fit(head.Beside, 10, false, room), false, Stroke.Soft),
            new Stroke.Line(Rim, 60, width - Rim, 60, Stroke.Ink, 1.2),
            new Stroke.Box(Rim, height - 31, width - 2 * Rim, 16, Wash),
            new Stroke.Text(
                Rim + 4,
                height - 20,
                8,
                fonts.Fit(
                    $"{head.School}. Made on {Wording.WithYear(head.Made)}; it does not follow changes. What is so now: {head.Live}",
                    8,
                    false,
                    width - 2 * Rim - 8
                ),
                false,
                Stroke.Soft
            ),
            .. Squares(head.Squares, width - Rim - CodeSide, 56 - CodeSide, CodeSide / Math.Max(1, head.Squares.Count)),
        ];
    }
}
