using Microsoft.AspNetCore.Identity;
using Microsoft.Extensions.Options;

namespace JollyAlmanac.Application.SignIn;

/// <summary>
/// Hashes passwords with the framework's PBKDF2 (HMAC-SHA512), 210,000 rounds as OWASP's password storage sheet advises (from memory).
/// </summary>
public sealed class Passwords
{
    /// <summary>The fewest characters a password may have.</summary>
    public const int Shortest = 10;

    /// <summary>The most characters.</summary>
    public const int Longest = 200;

    /// <summary>How often a password is hashed.</summary>
    public const int UsualRounds = 210_000;

    private readonly PasswordHasher<object> hasher;
    private readonly Lazy<string> nobodys;

    /// <summary>Makes the hasher.</summary>
    /// <param name="rounds">Fewer only in tests.</param>
    public Passwords(int rounds = UsualRounds)
    {
        hasher = new(Options.Create(new PasswordHasherOptions { IterationCount = rounds }));
        nobodys = new(() => Hash(Guid.NewGuid().ToString()));
    }

    /// <summary>The hash to store.</summary>
    public string Hash(string password) => hasher.HashPassword(this, password);

    /// <summary>
    /// Whether the password is the one that was hashed. Takes as long where there is no hash, so that nobody learns who has an account.
    /// </summary>
    public bool Matches(string? hash, string password) =>
        hasher.VerifyHashedPassword(this, hash ?? nobodys.Value, password) != PasswordVerificationResult.Failed
        && hash is not null;
}
