using NodaTime;

namespace JollyAlmanac.Core.Parsing;

/// <summary>A time of day as it was written: a start, perhaps an end.</summary>
/// <param name="Start">The start.</param>
/// <param name="End">The end; null where none was written.</param>
/// <param name="Problem">What is doubtful or wrong, in a sentence; null for nothing.</param>
internal sealed record TimeRead(LocalTime Start, LocalTime? End, string? Problem);

/// <summary>
/// Reads times and lengths out of the pieces of a line. Each reading begins at a piece and gives the place of the one after it, or -1.
/// <code>
/// time   = ["from" | "between" | "at"] point [("-" | "to" | "until" | "and") point]
/// point  = "noon" | "midday" | "midnight" | hour [(":" | "." | "h") minute] ["am" | "pm" | "o'clock" | "Uhr"] | four digits
/// length = ["for"] number ("min" | "h" ["and"] [number ["min"]]) | "an hour" ["and a half"] | "half an hour"
/// </code>
/// Times are those of a school: 1 to 5 without am or pm are in the afternoon, an end before its start is by the twelve hours after it,
/// and where morning or evening is in doubt, that is asked.
/// </summary>
internal sealed class TimeReader(IReadOnlyList<Token> tokens) : TokenReader(tokens)
{
    // A point of time, with how it was written.
    private readonly record struct Point(int Hour, int Minute, char Half, bool Bare, bool Digits, bool Zero)
    {
        public int Of => Hour * 60 + Minute;
    }

    /// <summary>A span or a start of a time.</summary>
    public int Read(int at, out TimeRead? read)
    {
        read = null;
        var lead = WordAt(at) is "from" or "between" or "at" or "starts" or "starting" ? WordAt(at) : "";
        var from = lead.Length > 0 ? at + 1 : at;
        if (lead is "starts" or "starting" && WordAt(from) == "at")
            (lead, from) = ("at", from + 1);
        var next = PointAt(from, out var start);
        if (next < 0)
            return -1;
        if (
            IsTo(next, lead, out var after)
            && PointAt(after, out var end) is > 0 and var behind
            && !IsUnit(behind, end)
        )
        {
            // "2026-2027" is a school year.
            if (start.Digits && end.Digits && start.Hour >= 19 && end.Of == start.Of + 1)
                return -1;
            read = Span(start, end);
            return read is null ? -1 : behind;
        }

        // A number alone is a time only where a word says so.
        if (
            (start.Bare && lead != "at" && !(WordAt(next) == "for" && Length(next, out _) > 0))
            || (start.Digits && start.Half == '\0' && WordAt(next) is not ("h" or "hrs" or "hours"))
        )
            return -1;
        if (start.Bare && (IsUnit(next, start) || Words.Month(WordAt(next)) > 0))
            return -1;
        if (start.Digits && start.Half == '\0')
            next++;
        var (time, doubt) = Alone(start);
        read = time is null ? null : new TimeRead(time.Value, null, doubt);
        return read is null ? -1 : next;
    }

    /// <summary>A length in minutes.</summary>
    public int Length(int at, out int minutes)
    {
        minutes = 0;
        if (WordAt(at) is "for" or "lasting" or "lasts")
            at++;
        if (WordAt(at) == "half" && WordAt(at + 1) is "an" or "a" && WordAt(at + 2) is "hour" && (minutes = 30) > 0)
            return at + 3;
        var number = NumberAt(at) >= 0 && Tokens[at].Text.Length <= 3 ? NumberAt(at) : Words.Number(WordAt(at));
        if (number < 0)
            return -1;
        var next = at + 1;
        var part = 0;
        if (
            SignAt(next) == '.'
            && NumberAt(next + 1) is >= 0 and <= 99 and var tenths
            && Glued(next)
            && Glued(next + 1)
        )
        {
            part = Tokens[next + 1].Text.Length == 1 ? tenths * 6 : tenths * 60 / 100;
            next += 2;
        }

        if (SignAt(next) == '-' && WordAt(next + 1) is "minute" or "min" or "hour")
            next++;
        switch (WordAt(next))
        {
            case "min" or "mins" or "minute" or "minutes" or "m" when part == 0:
                minutes = number;
                next++;
                break;
            // "8h00" is a time.
            case "h"
                when number >= 6
                    && part == 0
                    && Glued(next)
                    && Glued(next + 1)
                    && NumberAt(next + 1) >= 0
                    && Tokens[next + 1].Text.Length == 2:
                return -1;
            case "h" or "hr" or "hrs" or "hour" or "hours":
                minutes = number * 60 + part;
                next++;
                var and = WordAt(next) == "and" ? next + 1 : next;
                if (WordAt(and) is "a" && WordAt(and + 1) is "half" && and > next)
                    (minutes, next) = (minutes + 30, and + 2);
                else if (
                    part == 0
                    && NumberAt(and) is > 0 and < 60 and var rest
                    && SignAt(and + 1) != ':'
                    && !IsTo(and + 1, "", out _)
                )
                {
                    if (WordAt(and + 1) is "min" or "mins" or "minute" or "minutes" or "m")
                        (minutes, next) = (minutes + rest, and + 2);
                    // "1 h 15", "1h15"; not "1 hour 2 sessions".
                    else if (
                        Tokens[and].Text.Length == 2
                        && (
                            and + 1 >= Tokens.Count
                            || Tokens[and + 1].Kind != TokenKind.Word
                            || Words.Month(WordAt(and + 1)) == 0
                        )
                    )
                        (minutes, next) = (minutes + rest, and + 1);
                }

                break;
            default:
                return -1;
        }

        if (SignAt(next) == '.' && Glued(next))
            next++;
        if (WordAt(next) is "long" or "each")
            next++;
        return minutes is > 0 and <= 24 * 60 ? next : -1;
    }

    private int PointAt(int at, out Point point)
    {
        point = default;
        if (WordAt(at) is "noon" or "midday" or "midnight")
        {
            point = new Point(WordAt(at) == "midnight" ? 0 : 12, 0, 'x', false, false, false);
            return at + 1;
        }

        var hour = NumberAt(at);
        if (hour < 0)
            return -1;
        var (minute, next, bare, digits) = (0, at + 1, true, false);
        if (Tokens[at].Text.Length is 3 or 4)
        {
            (hour, minute, bare, digits) = (hour / 100, hour % 100, false, true);
        }
        else if (Tokens[at].Text.Length > 2)
        {
            return -1;
        }
        else if (
            (SignAt(next) is ':' or '.' || WordAt(next) == "h")
            && Glued(next)
            && NumberAt(next + 1) >= 0
            && Glued(next + 1)
            && Tokens[next + 1].Text.Length == 2
        )
        {
            // "12.10." is a day, not a time; "1h15" a length.
            if (
                SignAt(next) == '.'
                && SignAt(next + 2) == '.'
                && Glued(next + 2)
                && NumberAt(next + 3) < 0
                && WordAt(next + 3).Length == 0
            )
                return -1;
            if (WordAt(next) == "h" && hour < 6 && Tokens[at].Text.Length == 1)
                return -1;
            (minute, bare, next) = (NumberAt(next + 1), false, next + 2);
        }
        else if (WordAt(next) == "h" && Glued(next) && hour >= 6)
        {
            next++;
        }

        var half = HalfAt(next, bare, out var after);
        if (half != '\0')
            (next, bare) = (after, false);
        else if (WordAt(next) is "o'clock" or "oclock" or "uhr")
            (next, bare) = (next + 1, false);
        if (hour > 24 || minute > 59 || (hour == 24 && minute > 0) || (half is 'a' or 'p' && hour is < 1 or > 12))
            return -1;
        // A number that something is glued to is a part of another thing: "9A", "12th".
        if (bare && next < Tokens.Count && Glued(next) && Tokens[next].Kind == TokenKind.Word)
            return -1;
        point = new Point(hour, minute, half, bare, digits, Tokens[at].Text is ['0', _, ..] && !digits);
        return next;
    }

    // "am", "a.m.", "pm", and "a", "p" where they are glued to a time.
    private char HalfAt(int at, bool bare, out int next)
    {
        next = at + 1;
        var word = WordAt(at);
        if (word is "am" or "pm")
        {
            if (SignAt(next) == '.' && Glued(next))
                next++;
            return word[0];
        }

        if (word is not ("a" or "p"))
            return '\0';
        // "9A" is a class.
        return
            Glued(at)
            && Tokens[at].Text is "a" or "p"
            && (!bare || SignAt(at + 1) == '-' || (at > 1 && SignAt(at - 2) == '-'))
            ? word[0]
            : '\0';
    }

    private bool IsTo(int at, string lead, out int next)
    {
        next = at + 1;
        return SignAt(at) == '-'
            || WordAt(at) is "to" or "until" or "till" or "til"
            || (lead == "between" && WordAt(at) == "and");
    }

    private bool IsUnit(int at, Point point) =>
        point.Bare
        && (
            WordAt(at) is "min" or "mins" or "minutes" or "hours" or "weeks" or "sessions" or "times" or "days"
            || (Words.Month(WordAt(at)) > 0 && NumberAt(SignAt(at + 1) == '.' ? at + 2 : at + 1) < 0)
        );

    private static TimeRead? Span(Point start, Point end)
    {
        if (start.Bare && end.Bare && (start.Hour > 24 || end.Hour > 24))
            return null;
        string? doubt = null;
        int from,
            to;
        if (start.Half != '\0' || end.Half != '\0')
        {
            to = end.Half == '\0' ? 0 : By(end, end.Half);
            if (start.Half != '\0')
            {
                from = By(start, start.Half);
                if (end.Half == '\0')
                    to = end.Hour >= 13 ? end.Of : Next(end, from);
            }
            else
            {
                // "11-12:15pm" begins before noon, "1:30-2:45pm" after it.
                from = start.Hour is 0 or > 12 || end.Half == 'x' ? start.Of : By(start, end.Half);
                if (end.Half == 'x' && start.Hour is >= 1 and <= 5 && to > 720)
                    from += 720;
                if (from >= to)
                    from = start.Of % 1440;
                if (from >= to && start.Hour == 12)
                    from = start.Minute;
            }
        }
        else if (start.Zero || start.Hour is 0 or > 12)
        {
            (from, to) = (
                start.Of,
                end.Hour < 12 && end.Of <= start.Of && start.Hour >= 12 ? Next(end, start.Of) : end.Of
            );
        }
        else
        {
            from = start.Hour <= 5 ? start.Of + 720 : start.Of;
            to = end.Hour > 12 ? end.Of : Next(end, from);
            if (start.Hour == 6 || (start.Hour == 7 && start.Minute == 0 && end is { Minute: 0, Hour: 8 or 9 }))
                doubt =
                    $"It is not clear whether {start.Hour}:{start.Minute:00} is in the morning or in the evening. Write {start.Hour}:{start.Minute:00}am, or {start.Hour + 12}:{start.Minute:00}.";
        }

        if (to > from)
            return new TimeRead(
                At(from),
                At(to),
                to >= 1440 ? "It would end at midnight or after. Give an end on the same day." : doubt
            );
        return new TimeRead(
            At(from),
            At(to),
            $"It ends at {Wording.Of(At(to))}, which is not after its start at {Wording.Of(At(from))}."
        );
    }

    // The first time after a start that an end by twelve hours can mean, if it is not half a day away.
    private static int Next(Point end, int from)
    {
        var to = end.Of;
        if (to > from)
            return to;
        return to + 720 > from && to + 720 - from <= 420 ? to + 720 : to;
    }

    private static (LocalTime?, string?) Alone(Point point)
    {
        if (point.Half is 'a' or 'p')
            return (At(By(point, point.Half)), null);
        if (point.Half == 'x' || point.Zero || point.Digits || point.Hour is 0 or > 6)
            return point.Hour < 24 ? (At(point.Of), null) : (null, null);
        return point.Hour <= 5
            ? (At(point.Of + 720), null)
            : (
                At(point.Of),
                $"It is not clear whether {point.Hour}:{point.Minute:00} is in the morning or in the evening. Write {point.Hour}:{point.Minute:00}am, or {point.Hour + 12}:{point.Minute:00}."
            );
    }

    private static int By(Point point, char half) =>
        half is 'x' ? point.Of : (point.Hour % 12 + (half == 'p' ? 12 : 0)) * 60 + point.Minute;

    private static LocalTime At(int minutes) => LocalTime.FromMinutesSinceMidnight(Math.Clamp(minutes, 0, 1439));
}
