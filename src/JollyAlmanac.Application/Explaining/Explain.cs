using System.Text.Json;
using System.Text.Json.Serialization;
using JollyAlmanac.Core.Recurrence;
using JollyAlmanac.Formats;
using NodaTime;

namespace JollyAlmanac.Application.Explaining;

/// <summary>Says what a recurrence rule means, and when: for one rule, or for many as lines of JSON.</summary>
public static class Explain
{
    /// <summary>The most occurrences of one answer; a window with more is refused with words to that effect.</summary>
    public const int Most = 100_000;

    /// <summary>The most dates that may be listed beside a rule.</summary>
    public const int MostDates = 100_000;

    /// <summary>The longest line of a batch that is read.</summary>
    public const int LongestLine = 4_000_000;

    /// <summary>How far a rule with a COUNT is counted through.</summary>
    public const int MostCounted = 10_000_000;

    /// <summary>What was asked for: the fields of one line of a batch.</summary>
    /// <param name="Rrule">The rule, perhaps after "RRULE:"; null or empty for listed dates only.</param>
    /// <param name="Dtstart">A date or a local time.</param>
    /// <param name="Tzid">An IANA zone; null for a time by any clock, or for a date.</param>
    /// <param name="Rdate">Further moments.</param>
    /// <param name="Exdate">Exceptions.</param>
    /// <param name="Window">Half open, by the local time at which an occurrence really falls; or a number.</param>
    public sealed record Question(
        string? Rrule,
        string? Dtstart,
        string? Tzid = null,
        IReadOnlyList<string>? Rdate = null,
        IReadOnlyList<string>? Exdate = null,
        Window? Window = null
    );

    /// <summary>From when to when, or how many.</summary>
    public sealed record Window(string? From = null, string? To = null, int? Limit = null);

    /// <summary>What comes of a question.</summary>
    /// <param name="Rule">The rule; null for listed dates only.</param>
    /// <param name="Start">The start.</param>
    /// <param name="Occurrences">The occurrences as text.</param>
    /// <param name="HasMore">The limit cut them off.</param>
    public sealed record Answer(
        RecurrenceRule? Rule,
        RecurrenceStart Start,
        IReadOnlyList<string> Occurrences,
        bool HasMore
    );

    /// <summary>Answers one question.</summary>
    /// <returns>The answer, or the reason why there is none.</returns>
    public static (Answer? Answer, string? Reason) Ask(Question question)
    {
        var text = question.Rrule?.Trim() ?? "";
        if (text.StartsWith("RRULE:", StringComparison.OrdinalIgnoreCase))
            text = text["RRULE:".Length..];
        if (question.Window?.Limit < 1)
            return (null, $"The limit {question.Window.Limit} is no number from 1 up.");
        if (question.Rdate?.Count > MostDates || question.Exdate?.Count > MostDates)
            return (null, $"There are more than {MostDates} dates listed.");
        // Without a rule the listed dates are all there is; a rule that is empty is none.
        var (rule, reason) = question.Rrule is null ? (null, null) : RuleText.Parse(text);
        if (reason is not null)
            return (null, reason);
        if (rule?.Count > MostCounted)
            return (null, $"COUNT={rule.Count} is more than is counted through here, which is {MostCounted}.");
        if (RecurrenceText.Read(question.Dtstart ?? "") is not { } first)
            return (
                null,
                $"The start “{question.Dtstart}” is no date and no time; write it like 2026-09-14 or 2026-09-14T08:00."
            );
        if (first.IsUtc && question.Tzid is not (null or "UTC"))
            return (
                null,
                $"The start “{question.Dtstart}” is in UTC, and a zone is named besides. Give the local time with the zone."
            );
        var zone =
            first.IsUtc ? DateTimeZone.Utc
            : question.Tzid is null || first.IsDate ? null
            : DateTimeZoneProviders.Tzdb.GetZoneOrNull(question.Tzid);
        if (!first.IsUtc && question.Tzid is not null && !first.IsDate && zone is null)
            return (null, $"“{question.Tzid}” is no zone of the IANA database.");
        var start = new RecurrenceStart(first.Time, first.IsDate, zone);
        if (
            !TryRead(question.Rdate, out var extra, out reason) || !TryRead(question.Exdate, out var except, out reason)
        )
            return (null, reason);
        if (
            !TryRead(
                [.. new[] { question.Window?.From, question.Window?.To }.OfType<string>()],
                out var window,
                out reason
            )
        )
            return (null, reason);
        var from = question.Window?.From is null ? null : (LocalDateTime?)window[0].Time;
        var to = question.Window?.To is null ? null : (LocalDateTime?)window[^1].Time;
        RecurrenceSet set;
        try
        {
            set = new RecurrenceSet(rule, start, extra, except);
        }
        catch (ArgumentException refusal)
        {
            return (null, refusal.Message.Split(" (Parameter", 2)[0]);
        }

        var limit = Math.Min(question.Window?.Limit ?? int.MaxValue, Most);
        List<string> occurrences =
        [
            .. set.Between(from, to).Take(limit + 1).Select(occurrence => RecurrenceText.Write(occurrence, start)),
        ];
        if (occurrences.Count > limit && limit == Most)
            return (
                null,
                $"There are more than {Most} occurrences in the window. Ask for a shorter one, or for a number of them."
            );
        var hasMore = occurrences.Count > limit;
        if (hasMore)
            occurrences.RemoveAt(limit);
        return (new Answer(rule, start, occurrences, hasMore), null);
    }

    /// <summary>Answers lines of JSON with lines of JSON, in order, until there are no more.</summary>
    public static int Batch(TextReader questions, TextWriter answers)
    {
        while (questions.ReadLine() is { } line)
        {
            if (string.IsNullOrWhiteSpace(line))
                continue;
            JsonElement? id = null;
            Told answer;
            try
            {
                if (line.Length > LongestLine)
                    throw new JsonException($"it has more than {LongestLine} characters");
                using var document = JsonDocument.Parse(line);
                id = document.RootElement.TryGetProperty("id", out var found) && IsWhole(found) ? found.Clone() : null;
                var question = document.RootElement.Deserialize(ExplainJson.Default.Question)
                    ?? throw new JsonException("it is empty");
                var (told, reason) = Ask(question);
                answer = told is null ? new Told(id, null, Whole(reason!)) : new Told(id, told.Occurrences, null);
            }
            // A line that cannot be answered is told so; those after it are answered all the same.
            catch (Exception refusal)
                when (refusal
                        is JsonException
                            or InvalidOperationException
                            or ArgumentException
                            or FormatException
                            or OverflowException
                )
            {
                answer = new Told(id, null, $"The line is no question that can be read: {Whole(refusal.Message)}");
            }

            answers.WriteLine(JsonSerializer.Serialize(answer, ExplainJson.Default.Told));
        }

        answers.Flush();
        return 0;
    }

    /// <summary>Answers one question for people: the sentence, then a line each.</summary>
    public static int One(Question question, TextWriter answers, Func<string, int> refuse)
    {
        var (answer, reason) = Ask(question);
        if (answer is null)
            return refuse(reason!);
        answers.WriteLine(answer.Rule is null ? "on the dates listed" : RuleSentence.Of(answer.Rule, answer.Start));
        foreach (var occurrence in answer.Occurrences)
            answers.WriteLine(occurrence);
        answers.Flush();
        if (answer.HasMore)
            Console.Error.WriteLine(
                $"almanac: there are more; these are the first {answer.Occurrences.Count}. --limit and --to say how many."
            );
        return 0;
    }

    // Half of a surrogate pair can be read from JSON, but not written.
    private static bool IsWhole(JsonElement element)
    {
        try
        {
            JsonSerializer.Serialize(new Told(element, null, null), ExplainJson.Default.Told);
            return true;
        }
        catch (Exception refusal) when (refusal is ArgumentException or InvalidOperationException or JsonException)
        {
            return false;
        }
    }

    private static string Whole(string text) => string.Concat(text.EnumerateRunes().Select(rune => rune.ToString()));

    private static bool TryRead(IReadOnlyList<string>? texts, out IReadOnlyList<RuleMoment> moments, out string? reason)
    {
        var read = (texts ?? []).Select(text => (text: text ?? "", Moment: RecurrenceText.Read(text ?? ""))).ToList();
        moments = [.. read.Where(one => one.Moment is not null).Select(one => one.Moment!.Value)];
        reason = read.Find(one => one.Moment is null) is { text: { } wrong }
            ? $"“{wrong}” is no date and no time; write it like 2026-09-14, 2026-09-14T08:00 or 2026-09-14T11:00:00Z."
            : null;
        return reason is null;
    }

    /// <summary>One line of the answer.</summary>
    internal sealed record Told(JsonElement? Id, IReadOnlyList<string>? Occurrences, string? Error);
}

/// <summary>The JSON of a batch, read and written without reflection.</summary>
[JsonSourceGenerationOptions(
    PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    PropertyNameCaseInsensitive = true,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull
)]
[JsonSerializable(typeof(Explain.Question))]
[JsonSerializable(typeof(Explain.Told))]
internal sealed partial class ExplainJson : JsonSerializerContext;
