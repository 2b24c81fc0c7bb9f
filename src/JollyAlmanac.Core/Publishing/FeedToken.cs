namespace JollyAlmanac.Core.Publishing;

/// <summary>A feed or embed in its address, "/feeds/9c….ics": see <see cref="TokenText"/>. Whoever has it can read; the database has its hash.</summary>
public readonly record struct FeedToken(string Value) : ITextId<FeedToken>
{
    /// <inheritdoc />
    public static bool TryParse(string? text, IFormatProvider? provider, out FeedToken id)
    {
        id = TokenText.IsOne(text) ? new FeedToken(text) : default;
        return id.Value is not null;
    }

    /// <inheritdoc />
    public override string ToString() => Value;
}
