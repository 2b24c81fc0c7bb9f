namespace JollyAlmanac.Core.Materials;

/// <summary>A material in addresses, "/m/4k…": see <see cref="TokenText"/>. It stays with new versions and is never given out again.</summary>
public readonly record struct MaterialKey(string Value) : ITextId<MaterialKey>
{
    /// <summary>A key that nothing has.</summary>
    public static MaterialKey New() => new(TokenText.New());

    /// <inheritdoc />
    public static bool TryParse(string? text, IFormatProvider? provider, out MaterialKey id)
    {
        id = TokenText.IsOne(text) ? new MaterialKey(text) : default;
        return id.Value is not null;
    }

    /// <inheritdoc />
    public override string ToString() => Value;
}
