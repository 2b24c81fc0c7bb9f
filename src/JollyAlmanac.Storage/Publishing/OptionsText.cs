using System.Text.Json;
using System.Text.Json.Serialization;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Storage.Publishing;

/// <summary>How an outlet's options stand in a column: JSON, with what is usual left away.</summary>
internal static class OptionsText
{
    public static string Of(PublicationOptions options) =>
        JsonSerializer.Serialize(options, OptionsJson.Default.PublicationOptions);

    /// <exception cref="FormatException">They are none.</exception>
    public static PublicationOptions Parse(string text)
    {
        try
        {
            var options = JsonSerializer.Deserialize(text, OptionsJson.Default.PublicationOptions)
                ?? new PublicationOptions();
            return
                Enum.IsDefined(options.Shape)
                && Enum.IsDefined(options.Look)
                && Enum.IsDefined(options.Icon)
                && Enum.IsDefined(options.Tasks)
                && options
                    is {
                        Title: not null,
                        Button: not null,
                        Zone: not null,
                        Welcome: not null,
                        Count: null or (>= 1 and <= PublicationOptions.MostCount),
                        Reminder: null or (>= 0 and <= PublicationOptions.LongestReminder),
                        DaysBack: null or (>= 0 and <= PublicationOptions.MostDays),
                        DaysAhead: null or (>= 0 and <= PublicationOptions.MostDays)
                    }
                ? options
                : throw new FormatException("its options are none that an almanac writes");
        }
        catch (JsonException)
        {
            throw new FormatException("its options cannot be read");
        }
    }
}

/// <summary>The JSON, read and written without reflection.</summary>
[JsonSourceGenerationOptions(
    PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault,
    UseStringEnumConverter = true
)]
[JsonSerializable(typeof(PublicationOptions))]
internal sealed partial class OptionsJson : JsonSerializerContext;
