using System.Globalization;
using System.Text.Json;
using System.Text.Json.Serialization;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.Series;
using NodaTime;

namespace JollyAlmanac.Storage;

/// <summary>How what a door is made of stands in columns: "10 20", "10 end", "all day", "always"; "until 2026-12-18", "days 30", "sessions 12".</summary>
public static class DoorText
{
    /// <summary>The text of a rule.</summary>
    public static string Write(EntryRule rule) => rule switch
    {
        EntryRule.Around around => $"{Number(around.Lead)} {(around.Late is { } late ? Number(late) : "end")}",
        EntryRule.AllDay => "all day",
        _ => "always",
    };

    /// <summary>The rule of a text.</summary>
    public static EntryRule ReadEntry(string text) => text.Split(' ') switch
    {
        ["all", _] => new EntryRule.AllDay(),
        [var lead, var late] => new EntryRule.Around(Number(lead), late == "end" ? null : Number(late)),
        _ => new EntryRule.Always(),
    };

    internal static string Write(LinkReach reach) => reach switch
    {
        LinkReach.Until until => $"until {Stored.Text(until.Day)}",
        LinkReach.Days days => $"days {Number(days.Count)}",
        LinkReach.Sessions sessions => $"sessions {Number(sessions.Count)}",
        _ => "",
    };

    internal static LinkReach ReadReach(string text) => text.Split(' ') switch
    {
        ["until", var day] => new LinkReach.Until(Stored.Day(day)),
        ["days", var count] => new LinkReach.Days(Number(count)),
        ["sessions", var count] => new LinkReach.Sessions(Number(count)),
        _ => new LinkReach.Unlimited(),
    };

    internal static string? Write(DoorHand? hand) => hand is null ? null : JsonSerializer.Serialize(new HandText(
        hand.IsOpen, hand.From.ToUnixTimeMilliseconds(), hand.Until == Instant.MaxValue ? null : hand.Until.ToUnixTimeMilliseconds(),
        hand.Series?.Value, hand.Original is { } original ? Stored.Text(original) : null), DoorJson.Default.HandText);

    internal static DoorHand? ReadHand(string? text) => text is null || JsonSerializer.Deserialize(text, DoorJson.Default.HandText) is not { } hand ? null : new DoorHand(
        hand.Open, Stored.At(hand.From), hand.Until is { } until ? Stored.At(until) : Instant.MaxValue, hand.Series is { } series ? new SeriesId(series) : null,
        hand.Original is null ? null : Stored.DateTime(hand.Original));

    internal static string Write(IReadOnlyList<string> lines) => JsonSerializer.Serialize(lines, DoorJson.Default.IReadOnlyListString);

    internal static IReadOnlyList<string> ReadLines(string text) => JsonSerializer.Deserialize(text, DoorJson.Default.IReadOnlyListString)!;

    private static string Number(int number) => number.ToString(CultureInfo.InvariantCulture);

    private static int Number(string text) => int.Parse(text, CultureInfo.InvariantCulture);
}

/// <summary>A hand on a door, as JSON.</summary>
internal sealed record HandText(bool Open, long From, long? Until, long? Series, string? Original);

/// <summary>The JSON, read and written without reflection.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase, DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull)]
[JsonSerializable(typeof(HandText))]
[JsonSerializable(typeof(IReadOnlyList<string>))]
internal sealed partial class DoorJson : JsonSerializerContext;
