using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Storage.Rows;
using NodaTime;

namespace JollyAlmanac.Storage.JoinLinks;

/// <summary>
/// How what a door is made of stands in columns: "10 20", "10 end", "all day", "always", "hours 08:00 18:00"; "until 2026-12-18", "days 30", "sessions 12".
/// </summary>
public static class DoorText
{
    /// <summary>The text of a rule.</summary>
    public static string Write(EntryRule rule) =>
        rule switch
        {
            EntryRule.Around around => $"{Number(around.Lead)} {(around.Late is { } late ? Number(late) : "end")}",
            EntryRule.AllDay => "all day",
            EntryRule.Hours hours => $"hours {Stored.Text(hours.From)} {Stored.Text(hours.To)}",
            _ => "always",
        };

    /// <summary>The rule of a text.</summary>
    /// <exception cref="FormatException">It is none; nothing is made up, as a door must never open by mistake.</exception>
    public static EntryRule ReadEntry(string text) =>
        text.Split(' ') switch
        {
            ["all", "day"] => new EntryRule.AllDay(),
            ["always"] => new EntryRule.Always(),
            ["hours", var from, var to]
                when Stored.Time(from) is var opens && Stored.Time(to) is var shuts && opens < shuts =>
                new EntryRule.Hours(opens, shuts),
            [var lead, var late] => new EntryRule.Around(Minutes(lead), late == "end" ? null : Minutes(late)),
            _ => throw new FormatException($"“{text}” is no rule of a door"),
        };

    internal static string Write(LinkReach reach) =>
        reach switch
        {
            LinkReach.Until until => $"until {Stored.Text(until.Day)}",
            LinkReach.Days days => $"days {Number(days.Count)}",
            LinkReach.Sessions sessions => $"sessions {Number(sessions.Count)}",
            _ => "",
        };

    internal static LinkReach ReadReach(string text) =>
        text.Split(' ') switch
        {
            ["until", var day] => new LinkReach.Until(Stored.Day(day)),
            ["days", var count] => new LinkReach.Days(Number(count)),
            ["sessions", var count] => new LinkReach.Sessions(Number(count)),
            [""] => new LinkReach.Unlimited(),
            _ => throw new FormatException($"“{text}” is no reach of a room"),
        };

    internal static string? Write(ManualOverride? hand) =>
        hand is null
            ? null
            : JsonSerializer.Serialize(
                new ManualOverrideText(
                    hand.IsOpen,
                    hand.From.ToUnixTimeMilliseconds(),
                    hand.Until == Instant.MaxValue ? null : hand.Until.ToUnixTimeMilliseconds(),
                    hand.Session?.Series.Value,
                    hand.Session is { } session ? Stored.Text(session.Original) : null
                ),
                DoorJson.Default.ManualOverrideText
            );

    internal static ManualOverride? ReadHand(string? text) =>
        text is null || JsonSerializer.Deserialize(text, DoorJson.Default.ManualOverrideText) is not { } hand
            ? null
            : new ManualOverride(
                hand.Open,
                Stored.At(hand.From),
                hand.Until is { } until ? Stored.At(until) : Instant.MaxValue,
                hand is { Series: { } series, Original: { } original }
                    ? new SessionKey(new SeriesId(series), Stored.Original(original))
                    : null
            );

    internal static string Write(IReadOnlyList<string> lines) =>
        JsonSerializer.Serialize(lines, DoorJson.Default.IReadOnlyListString);

    internal static IReadOnlyList<string> ReadLines(string text) =>
        JsonSerializer.Deserialize(text, DoorJson.Default.IReadOnlyListString) is { } lines
        && lines.All(line => line is not null)
            ? lines
            : throw new FormatException("a list of lines is none");

    private static string Number(int number) => number.ToString(CultureInfo.InvariantCulture);

    private static int Number(string text) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out var number) && number <= 100_000
            ? number
            : throw new FormatException($"“{text}” is no number here");

    private static int Minutes(string text) =>
        Number(text) is var minutes && minutes <= EntryRule.MostMinutes
            ? minutes
            : throw new FormatException($"“{text}” is more minutes than a door may have");
}

/// <summary>A hand on a door, as JSON.</summary>
internal sealed record ManualOverrideText(bool Open, long From, long? Until, long? Series, string? Original);

/// <summary>The JSON, read and written without reflection.</summary>
[JsonSourceGenerationOptions(
    PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull
)]
[JsonSerializable(typeof(ManualOverrideText))]
[JsonSerializable(typeof(IReadOnlyList<string>))]
internal sealed partial class DoorJson : JsonSerializerContext;
