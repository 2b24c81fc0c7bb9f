using System.Globalization;
using System.Text;
using JollyAlmanac.Core.JoinLinks;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Application;

/// <summary>Reads the fields of a form, one after the other, and gathers what is wrong with them.</summary>
internal sealed class FormReader
{
    private readonly List<Problem> problems = [];

    public IReadOnlyList<Problem> Problems => problems;

    public bool IsGood => problems.Count == 0;

    public bool Has(string field) => problems.Any(problem => problem.Field == field);

    /// <summary>The most problems that are told of one field, and of all of them.</summary>
    public const int MostOfOne = 5;

    private const int MostInAll = 30;

    private const int LongestMessage = 400;

    /// <summary>Notes what is wrong. Few are told, and each is short, whatever came in.</summary>
    public void Wrong(string field, string message)
    {
        var ofField = problems.Count(problem => problem.Field == field);
        if (ofField > MostOfOne || problems.Count >= MostInAll)
            return;
        problems.Add(
            new Problem(
                field,
                ofField == MostOfOne ? "There is more like this. Mend these first."
                    : message.Length > LongestMessage ? message[..LongestMessage] + "…"
                    : message
            )
        );
    }

    /// <summary>A text that is not too long to be looked at; else what is wrong is noted, and it counts as empty.</summary>
    public string Bounded(string field, string? text, string called, int longest)
    {
        if ((text ?? "").Length <= longest)
            return text ?? "";
        Wrong(field, $"{called} has {text!.Length} characters; {longest} are read. Shorten it.");
        return "";
    }

    /// <summary>One line of text: trimmed, white space folded, without control characters and direction overrides.</summary>
    public string Line(string field, string? text, string called, int longest, bool needed)
    {
        if (text?.Length > longest * 8 + 1000)
            return Bounded(field, text, called, longest);
        var line = string.Join(' ', Clean(text, keepLines: false).Split(' ', StringSplitOptions.RemoveEmptyEntries));
        if (needed && line.Length == 0)
            Wrong(field, $"{called} is missing. Write one.");
        else if (line.Length > longest)
            Wrong(field, $"{called} has {line.Length} characters. It may have {longest}; shorten it.");
        return line;
    }

    /// <summary>Several lines of text.</summary>
    public string Lines(string field, string? text, string called, int longest)
    {
        if (text?.Length > longest * 4 + 1000)
            return Bounded(field, text, called, longest);
        var lines = Clean(text?.ReplaceLineEndings("\n"), keepLines: true).Trim();
        if (lines.Length > longest)
            Wrong(field, $"{called} has {lines.Length} characters. It may have {longest}; shorten it.");
        return lines;
    }

    public LocalDate? Day(string field, string? text, string called)
    {
        if (
            LocalDatePattern.Iso.Parse(text?.Trim() ?? "") is
            { Success: true, Value: { Year: >= 1950 and <= 2150 } day }
        )
            return day;
        Wrong(
            field,
            string.IsNullOrWhiteSpace(text)
                ? $"{called} is missing. Choose a day."
                : $"{called} is no day that the almanac can read. Write it like 2026-09-14."
        );
        return null;
    }

    public LocalTime? Time(string field, string? text, string called)
    {
        if (TimePattern.Parse(text?.Trim() ?? "") is { Success: true, Value: var time })
            return time;
        Wrong(
            field,
            string.IsNullOrWhiteSpace(text)
                ? $"{called} is missing. Write it like 9:50."
                : $"{called} is no time that the almanac can read. Write it like 9:50 or 13:30."
        );
        return null;
    }

    public int? Number(string field, string? text, string called, int least, int most)
    {
        if (
            int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            && number >= least
            && number <= most
        )
            return number;
        Wrong(field, $"{called} must be a whole number from {least} to {most}.");
        return null;
    }

    public Uri? Address(string field, string? text, string called)
    {
        text = text?.Trim() ?? "";
        if (text.Length <= JoinTarget.Longest && WebAddress.TryRead(text, out var address))
        {
            if (address.UserInfo.Length == 0)
                return address;
            Wrong(
                field,
                $"{called} has a user name or password inside (before the @), which everybody would read. Write it without."
            );
            return null;
        }

        Wrong(field, $"{called} must be a web address that starts with https:// or http://.");
        return null;
    }

    /// <summary>A text without control characters, direction overrides and lone surrogates; line breaks stay where asked for.</summary>
    public static string Clean(string? text, bool keepLines)
    {
        // Nearly all that comes in is plain already.
        if (text is null || !text.AsSpan().ContainsAnyExceptInRange(' ', '~'))
            return text ?? "";
        var clean = new StringBuilder();
        // Without lone surrogates, which no UTF-8 can carry, and without marks that turn the direction of what follows them.
        foreach (var rune in text.EnumerateRunes())
        {
            if (rune.Value is 0xFFFD or (>= 0x202A and <= 0x202E) or (>= 0x2066 and <= 0x2069))
                continue;
            if (keepLines && rune.Value is '\n' or '\t')
                clean.Append(rune.ToString());
            else
                clean.Append(Rune.IsControl(rune) || Rune.IsWhiteSpace(rune) ? " " : rune.ToString());
        }

        return clean.ToString();
    }

    private static readonly LocalTimePattern TimePattern = LocalTimePattern.CreateWithInvariantCulture("H:mm");
}
