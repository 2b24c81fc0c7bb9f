using System.Diagnostics.CodeAnalysis;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>Tells a web address from anything else that might stand in a link: javascript:, data:, file:, a bare word.</summary>
public static class WebAddress
{
    /// <summary>Reads an absolute http or https address with a host and without spaces or control characters.</summary>
    /// <example>
    /// <code>
    /// WebAddress.TryRead("ftp://rooms.skerry.example", out _) // false
    /// </code>
    /// </example>
    public static bool TryRead(string text, [NotNullWhen(true)] out Uri? address)
    {
        address = null;
        if (text.Any(letter => char.IsControl(letter) || char.IsWhiteSpace(letter)))
            return false;
        return Uri.TryCreate(text, UriKind.Absolute, out address)
            && (address.Scheme == Uri.UriSchemeHttp || address.Scheme == Uri.UriSchemeHttps)
            && address.Host.Length > 0;
    }
}
