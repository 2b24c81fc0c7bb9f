using System.Text.Json;
using System.Text.Json.Serialization;
using JollyAlmanac.Core.Publishing;

namespace JollyAlmanac.Storage;

/// <summary>How an outlet's options stand in a column: JSON, with what is usual left away.</summary>
internal static class OptionsText
{
    public static string Of(OutletOptions options) => JsonSerializer.Serialize(options, OptionsJson.Default.OutletOptions);

    /// <exception cref="FormatException">They are none.</exception>
    public static OutletOptions Parse(string text)
    {
        try
        {
            var options = JsonSerializer.Deserialize(text, OptionsJson.Default.OutletOptions) ?? new OutletOptions();
            return Enum.IsDefined(options.Shape) && Enum.IsDefined(options.Look) && options is
                { Title: not null, Button: not null, Zone: not null, Reminder: null or (>= 0 and <= OutletOptions.LongestReminder),
                    DaysBack: null or (>= 0 and <= OutletOptions.MostDays), DaysAhead: null or (>= 0 and <= OutletOptions.MostDays) }
                ? options : throw new FormatException("its options are none that an almanac writes");
        }
        catch (JsonException)
        {
            throw new FormatException("its options cannot be read");
        }
    }
}

/// <summary>The JSON, read and written without reflection.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingDefault, UseStringEnumConverter = true)]
[JsonSerializable(typeof(OutletOptions))]
internal sealed partial class OptionsJson : JsonSerializerContext;
