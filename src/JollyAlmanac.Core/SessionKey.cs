using System.Globalization;
using NodaTime;
using NodaTime.Text;

namespace JollyAlmanac.Core;

/// <summary>Knows one series in the data.</summary>
public readonly record struct SeriesId(long Value);

/// <summary>
/// What a session is known by, from an address to the database: its series and its original local start (RECURRENCE-ID of
/// RFC 5545 §3.8.4.4). It has one form as text, read in one place.
/// </summary>
/// <param name="Series">The series.</param>
/// <param name="Original">
/// The original start. Of the pattern it is a whole minute, and its date is what counts, so that a new hour keeps what was
/// done to it. An extra session's carries seconds, so that neither can be taken for the other.
/// </param>
/// <example>"12.2026-10-14T09:50" is the session of series 12 that the pattern has on 14 Oct; "12.2026-11-14T09:00:01" an extra
/// one.</example>
public readonly record struct SessionKey(SeriesId Series, LocalDateTime Original)
{
    private static readonly LocalDateTimePattern Minutes = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuu-MM-dd'T'HH:mm"
    );

    private static readonly LocalDateTimePattern Seconds = LocalDateTimePattern.CreateWithInvariantCulture(
        "uuuu-MM-dd'T'HH:mm:ss"
    );

    /// <summary>Whether an original start is that of an extra session.</summary>
    /// <example>
    /// <code>
    /// SessionKey.IsExtra(new LocalDateTime(2026, 11, 14, 9, 0, 1)) // true
    /// </code>
    /// </example>
    public static bool IsExtra(LocalDateTime original) => original.Second != 0;

    /// <summary>The text of an original start: "2026-10-14T09:50", with seconds only where it has some.</summary>
    /// <example>
    /// <code>
    /// SessionKey.TextOf(new LocalDateTime(2026, 10, 14, 9, 50)) // 2026-10-14T09:50
    /// </code>
    /// </example>
    public static string TextOf(LocalDateTime original) => (IsExtra(original) ? Seconds : Minutes).Format(original);

    /// <summary>Reads what <see cref="TextOf"/> writes; seconds of zero may stand there.</summary>
    /// <example>
    /// <code>
    /// SessionKey.TryReadOriginal("2026-10-14", out _) // false
    /// </code>
    /// </example>
    public static bool TryReadOriginal(string? text, out LocalDateTime original)
    {
        original = default;
        if (
            text is not { Length: 16 or 19 }
            || (text.Length == 16 ? Minutes : Seconds).Parse(text)
                is not { Success: true, Value: { Year: >= 1900 and <= 2200 } read }
        )
            return false;
        original = read;
        return true;
    }

    /// <summary>Reads what <see cref="ToString"/> writes.</summary>
    /// <example>
    /// <code>
    /// SessionKey.TryRead("12.2026-10-14T09:50", out var key) // true
    /// key.Series.Value // 12
    /// </code>
    /// </example>
    public static bool TryRead(string? text, out SessionKey key)
    {
        key = default;
        if (
            text is not { Length: <= 40 }
            || text.IndexOf('.', StringComparison.Ordinal) is not (> 0 and var dot)
            || !long.TryParse(text.AsSpan(0, dot), NumberStyles.None, CultureInfo.InvariantCulture, out var series)
            || !TryReadOriginal(text[(dot + 1)..], out var original)
        )
            return false;
        key = new SessionKey(new SeriesId(series), original);
        return true;
    }

    /// <summary>"12.2026-10-14T09:50".</summary>
    public override string ToString() =>
        string.Create(CultureInfo.InvariantCulture, $"{Series.Value}.{TextOf(Original)}");
}
