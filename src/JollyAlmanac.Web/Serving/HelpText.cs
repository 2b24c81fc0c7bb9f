using System.CommandLine;
using System.Globalization;
using System.Text;

namespace JollyAlmanac.Web.Serving;

/// <summary>What <c>./almanac help</c> prints of the verbs: their own descriptions, and those of their options.</summary>
internal static class HelpText
{
    private const int Column = 28;

    /// <summary>All verbs that are not hidden, each with its arguments and options; an option's default value in brackets.</summary>
    public static string Of(RootCommand root)
    {
        var text = new StringBuilder(root.Description).Append('\n');
        foreach (var verb in root.Subcommands.Where(verb => !verb.Hidden))
        {
            text.Append(CultureInfo.InvariantCulture, $"\n  ./almanac {verb.Name}");
            foreach (var argument in verb.Arguments)
                text.Append(' ').Append(argument.Name.ToUpperInvariant());
            text.Append(CultureInfo.InvariantCulture, $"\n      {verb.Description}\n");
            foreach (var argument in verb.Arguments)
                Row(text, argument.Name.ToUpperInvariant(), argument.Description, "");
            foreach (var option in verb.Options.Where(option => !option.Hidden && option.Description is not null))
                Row(text, Called(option), option.Description, Remark(option));
        }

        return text.ToString();
    }

    private static void Row(StringBuilder text, string name, string? says, string remark) =>
        text.Append("      ").Append(name.PadRight(Column - 1)).Append(' ').Append(says).Append(remark).Append('\n');

    private static string Called(Option option) =>
        option.ValueType == typeof(bool)
            ? option.Name
            : $"{option.Name} {option.Name.TrimStart('-').Split('-')[^1].ToUpperInvariant()}";

    private static string Remark(Option option) =>
        option.Required ? " (needed)"
        : option.HasDefaultValue
        && option.ValueType != typeof(bool)
        && option.GetDefaultValue() is { } value
        && Convert.ToString(value, CultureInfo.InvariantCulture) is { Length: > 0 } shown
            ? $" [{shown}]"
        : "";
}
