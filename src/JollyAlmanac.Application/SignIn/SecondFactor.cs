using System.Security.Cryptography;
using JollyAlmanac.Core.People;
using NodaTime;
using OtpNet;

namespace JollyAlmanac.Application.SignIn;

/// <summary>
/// The second factor: codes by time (RFC 6238: SHA-1, 6 digits, 30 seconds, what all apps for it speak), and recovery codes for who has
/// lost the device.
/// </summary>
public static class SecondFactor
{
    /// <summary>How many recovery codes there are.</summary>
    public const int RecoveryCodes = 10;

    private const string Letters = "34679cdfghjkmnpqrtwx";

    /// <summary>The step of time whose code it is: now, or one before or behind, as clocks differ; null for none.</summary>
    /// <param name="key">The key.</param>
    /// <param name="code">As typed; spaces do not matter.</param>
    /// <param name="now">When.</param>
    public static long? StepOf(byte[] key, string code, Instant now)
    {
        var plain = new string([.. code.Take(40).Where(letter => !char.IsWhiteSpace(letter))]);
        return
            plain.Length == 6
            && plain.All(char.IsAsciiDigit)
            && new Totp(key).VerifyTotp(
                now.ToDateTimeUtc(),
                plain,
                out var step,
                VerificationWindow.RfcSpecifiedNetworkDelay
            )
            ? step
            : null;
    }

    /// <summary>The code of a key at a moment.</summary>
    public static string CodeOf(byte[] key, Instant now) => new Totp(key).ComputeTotp(now.ToDateTimeUtc());

    /// <summary>A key as one types it: base 32 in fours.</summary>
    public static string Written(byte[] key) =>
        string.Join(' ', Base32Encoding.ToString(key).TrimEnd('=').Chunk(4).Select(part => new string(part)));

    /// <summary>The address that an app reads from a picture (the "otpauth" form that apps share; it stands in no RFC).</summary>
    public static string AddressOf(byte[] key, string school, EmailAddress? email) =>
        $"otpauth://totp/{Uri.EscapeDataString($"{school}:{email}")}?secret={Base32Encoding.ToString(key).TrimEnd('=')}&issuer={Uri.EscapeDataString(school)}";

    /// <summary>A new recovery code: over 40 bits, in fives.</summary>
    public static string NewRecovery() =>
        $"{RandomNumberGenerator.GetString(Letters, 5)}-{RandomNumberGenerator.GetString(Letters, 5)}";

    /// <summary>A recovery code as it is hashed: without what people put between; null for a text that is none.</summary>
    public static string? PlainRecovery(string code)
    {
        var plain = new string([.. code.Take(40).Where(char.IsAsciiLetterOrDigit)]).ToLowerInvariant();
        return plain.Length == 10 ? plain : null;
    }
}
