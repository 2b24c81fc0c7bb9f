namespace JollyAlmanac.Core.Materials;

/// <summary>An upload in addresses, "/uploads/biology/7q…", and the name of its unfinished file: see <see cref="TokenText"/>.</summary>
public readonly record struct UploadKey(string Value) : ITextId<UploadKey>
{
    /// <summary>A key that nothing has.</summary>
    public static UploadKey New() => new(TokenText.New());

    /// <inheritdoc />
    public static bool TryParse(string? text, IFormatProvider? provider, out UploadKey id)
    {
        id = TokenText.IsOne(text) ? new UploadKey(text) : default;
        return id.Value is not null;
    }

    /// <inheritdoc />
    public override string ToString() => Value;
}
