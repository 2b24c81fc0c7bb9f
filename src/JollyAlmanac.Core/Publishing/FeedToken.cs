namespace JollyAlmanac.Core.Publishing;

/// <summary>A feed or embed in its address, "/feeds/9c….ics": see <see cref="TokenText"/>. Whoever has it can read; the database has its hash.</summary>
public readonly record struct FeedToken(string Value) : ITextId<FeedToken>
{
    /// <inheritdoc />
    public static bool TryParse(string? text, IFormatProvider? provider, out FeedToken id)
    {
        var isOne = TokenText.IsOne(text);
        id = isOne ? new FeedToken(text!) : default;
        return isOne;
    }

    /// <inheritdoc />
    public override string ToString() => Value;
}
