using System.Collections.Immutable;

namespace JollyAlmanac.Core.JoinLinks;

/// <summary>The address of an online room with its parts. Only http and https; no user name or password inside.</summary>
public sealed record JoinTarget
{
    /// <summary>The longest address.</summary>
    public const int Longest = 2000;

    // Common practice, no source: what a passcode is called inside an address.
    private static readonly string[] PasscodeNames = ["pwd", "passcode", "password", "pass", "pin", "p", "pw"];

    /// <summary>A target of an address that was read.</summary>
    public JoinTarget(Uri address) => Address = address;

    /// <summary>The address, absolute.</summary>
    public Uri Address { get; }

    /// <summary>The meeting id that people type by hand; empty for none.</summary>
    public string MeetingId { get; init; } = "";

    /// <summary>The passcode that people type by hand; empty for none.</summary>
    public string Passcode { get; init; } = "";

    /// <summary>Telephone numbers, each with what was said of it.</summary>
    public ImmutableArray<string> DialIn { get; init; } = [];

    /// <summary>The provider that made the room; empty where it was pasted.</summary>
    public string Provider { get; init; } = "";

    /// <summary>The room's key with its provider; empty where it was pasted.</summary>
    public string Room { get; init; } = "";

    /// <summary>Stands for an address that cannot be read: a name that never leads anywhere (RFC 2606 §2).</summary>
    public static Uri Nowhere { get; } = new("https://unreadable.invalid/");

    /// <summary>Its address could be read.</summary>
    public bool IsReadable => Address != Nowhere;

    /// <summary>The passcode that the address carries in its query or fragment, or null.</summary>
    public string? PasscodeInside =>
        PasscodeIn(Address)
        ?? (Passcode.Length > 0 && Address.AbsolutePath.Split('/').Contains(Passcode) ? Passcode : null);

    /// <summary>Reads an address that somebody typed or pasted.</summary>
    /// <returns>
    /// The target, or the reason why the text is none, a sentence for people that does not hold the address: it may be a secret even
    /// where it is wrong. The address is not asked whether it answers.
    /// </returns>
    /// <example>
    /// <code>
    /// JoinTarget.Read("javascript:alert(1)").Target // null
    /// </code>
    /// </example>
    public static (JoinTarget? Target, string? Reason) Read(string text)
    {
        text = text.Trim();
        if (text.Length > Longest)
            return (
                null,
                $"The join link is longer than {Longest} characters. Paste the address alone, without the rest of the invitation."
            );
        if (!WebAddress.TryRead(text, out var address))
            return (
                null,
                "The join link must be a web address that starts with https:// or http://. Paste it as the room gives it."
            );
        if (address.UserInfo.Length > 0)
            return (null, "The join link has a user name inside (before the @). Paste it without.");
        return (new JoinTarget(address), null);
    }

    /// <summary>The passcode inside an address, or null.</summary>
    /// <example>
    /// <code>
    /// JoinTarget.PasscodeIn(new Uri("https://rooms.skerry.example/7?passcode=kelp22")) // kelp22
    /// </code>
    /// </example>
    public static string? PasscodeIn(Uri address)
    {
        foreach (
            var part in $"{address.Query}&{address.Fragment}".Split(
                ['?', '&', '#', ';'],
                StringSplitOptions.RemoveEmptyEntries
            )
        )
        {
            var at = part.IndexOf('=', StringComparison.Ordinal);
            if (at > 0 && at < part.Length - 1 && PasscodeNames.Contains(part[..at], StringComparer.OrdinalIgnoreCase))
                return Uri.UnescapeDataString(part[(at + 1)..]);
        }

        return null;
    }

    /// <summary>Says nothing of the address, so that it cannot slip into a log.</summary>
    public override string ToString() => "a join target";
}
