using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace JollyAlmanac.Demo.OpenId;

/// <summary>Somebody whom the provider knows.</summary>
/// <param name="Name">Their name.</param>
/// <param name="Email">Their address.</param>
/// <param name="IsVerified">The provider has seen that it is theirs.</param>
public sealed record ProviderAccount(string Name, string Email, bool IsVerified = true);

/// <summary>What a program asks for that sends somebody here (OpenID Connect Core 1.0 §3.1.2.1, RFC 7636 §4.3).</summary>
/// <param name="ClientId">Which program.</param>
/// <param name="RedirectUri">Where it is answered.</param>
/// <param name="Nonce">Comes back in the token.</param>
/// <param name="Challenge">The SHA-256 of what only the program knows.</param>
public sealed record ProviderRequest(string ClientId, string RedirectUri, string Nonce, string Challenge);

/// <summary>
/// A stand-in for a school's provider of sign-ins: authorization code with PKCE, a signed token, and who it is on asking. It asks nobody
/// for a password; whoever comes chooses who they are. Keys and codes live as long as the process.
/// </summary>
/// <param name="root">Its own address, the issuer of its tokens.</param>
/// <param name="almanac">Where the one program it serves is reached.</param>
/// <param name="accounts">Whom it knows.</param>
/// <param name="time">The clock that tokens go by: the machine's, as the library that reads them asks that one.</param>
public sealed class StandInProvider(
    Func<Uri> root,
    Func<Uri> almanac,
    IReadOnlyList<ProviderAccount> accounts,
    TimeProvider time
) : IDisposable
{
    /// <summary>The one program that may ask.</summary>
    public const string ClientId = "jolly-almanac";

    /// <summary>Where that program is answered.</summary>
    public const string CallbackPath = "sign-in/back";

    private const string KeyId = "stand-in";
    private readonly Lock gate = new();
    private readonly RSA key = RSA.Create(2048);
    private readonly Dictionary<
        string,
        (ProviderRequest Request, ProviderAccount Account, DateTimeOffset Ends)
    > codes = [];
    private readonly Dictionary<string, ProviderAccount> tokens = [];

    /// <summary>Whom it knows.</summary>
    public IReadOnlyList<ProviderAccount> Accounts => accounts;

    /// <summary>What it proves the program by.</summary>
    public string Secret { get; } = NewToken();

    /// <summary>What a program must know of it (OpenID Connect Discovery 1.0 §3).</summary>
    public Dictionary<string, object> Configuration() =>
        new()
        {
            ["issuer"] = Issuer,
            ["authorization_endpoint"] = $"{Issuer}/authorize",
            ["token_endpoint"] = $"{Issuer}/token",
            ["userinfo_endpoint"] = $"{Issuer}/userinfo",
            ["jwks_uri"] = $"{Issuer}/keys",
            ["response_types_supported"] = (string[])["code"],
            ["subject_types_supported"] = (string[])["public"],
            ["id_token_signing_alg_values_supported"] = (string[])["RS256"],
            ["code_challenge_methods_supported"] = (string[])["S256"],
        };

    /// <summary>The key that its tokens are signed by (RFC 7517).</summary>
    public Dictionary<string, object> Keys()
    {
        var open = key.ExportParameters(includePrivateParameters: false);
        return new()
        {
            ["keys"] = (Dictionary<string, string>[])
                [
                    new()
                    {
                        ["kty"] = "RSA",
                        ["use"] = "sig",
                        ["alg"] = "RS256",
                        ["kid"] = KeyId,
                        ["n"] = Base64Url.EncodeToString(open.Modulus),
                        ["e"] = Base64Url.EncodeToString(open.Exponent),
                    },
                ],
        };
    }

    /// <summary>Whether it answers such a question: of its one program, to that one's own address, with a challenge.</summary>
    public bool Knows(ProviderRequest request) =>
        request.ClientId == ClientId
        && request.Challenge.Length == 43
        && request.RedirectUri == new Uri(almanac(), CallbackPath).AbsoluteUri;

    /// <summary>A code that stands for somebody's choice, for one minute and one use; null where it does not answer.</summary>
    public string? CodeFor(ProviderRequest request, string email, bool isVerified)
    {
        if (
            !Knows(request)
            || accounts.FirstOrDefault(one => one.Email == email && one.IsVerified == isVerified) is not { } account
        )
            return null;
        var code = NewToken();
        lock (gate)
            codes[code] = (request, account, time.GetUtcNow().AddMinutes(1));
        return code;
    }

    /// <summary>
    /// The tokens of a code, to the program that asked and knows what its challenge was made from; null for anybody else.
    /// </summary>
    public Dictionary<string, object>? Redeem(
        string code,
        string clientId,
        string secret,
        string redirectUri,
        string verifier
    )
    {
        lock (gate)
        {
            if (
                !codes.Remove(code, out var kept)
                || kept.Ends < time.GetUtcNow()
                || clientId != kept.Request.ClientId
                || secret != Secret
                || redirectUri != kept.Request.RedirectUri
                || Base64Url.EncodeToString(SHA256.HashData(Encoding.ASCII.GetBytes(verifier)))
                    != kept.Request.Challenge
            )
                return null;
            var token = NewToken();
            tokens[token] = kept.Account;
            return new()
            {
                ["access_token"] = token,
                ["token_type"] = "Bearer",
                ["expires_in"] = 60,
                ["id_token"] = Signed(kept.Account, kept.Request.Nonce),
            };
        }
    }

    /// <summary>Who somebody is, to whoever has their token; null for none.</summary>
    public Dictionary<string, object>? WhoIs(string token)
    {
        lock (gate)
            return tokens.TryGetValue(token, out var account)
                ? new()
                {
                    ["sub"] = Subject(account),
                    ["name"] = account.Name,
                    ["email"] = account.Email,
                    ["email_verified"] = account.IsVerified,
                }
                : null;
    }

    /// <inheritdoc />
    public void Dispose() => key.Dispose();

    private string Issuer => root().AbsoluteUri.TrimEnd('/');

    private static string Subject(ProviderAccount account) => $"{(account.IsVerified ? "v" : "u")}:{account.Email}";

    // A JSON Web Token (RFC 7519), signed by RSASSA-PKCS1-v1_5 with SHA-256 (RFC 7518 §3.3).
    private string Signed(ProviderAccount account, string nonce)
    {
        var now = time.GetUtcNow().ToUnixTimeSeconds();
        var head = Part(
            new Dictionary<string, object>
            {
                ["alg"] = "RS256",
                ["typ"] = "JWT",
                ["kid"] = KeyId,
            }
        );
        var body = Part(
            new Dictionary<string, object>
            {
                ["iss"] = Issuer,
                ["aud"] = ClientId,
                ["sub"] = Subject(account),
                ["nonce"] = nonce,
                ["iat"] = now,
                ["exp"] = now + 60,
            }
        );
        var signature = key.SignData(
            Encoding.ASCII.GetBytes($"{head}.{body}"),
            HashAlgorithmName.SHA256,
            RSASignaturePadding.Pkcs1
        );
        return $"{head}.{body}.{Base64Url.EncodeToString(signature)}";
    }

    private static string Part(Dictionary<string, object> values) =>
        Base64Url.EncodeToString(JsonSerializer.SerializeToUtf8Bytes(values));

    private static string NewToken() => Base64Url.EncodeToString(RandomNumberGenerator.GetBytes(32));
}
