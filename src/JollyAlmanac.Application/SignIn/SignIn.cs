using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.SignIn;

/// <summary>What came of signing in.</summary>
public abstract record SignInAnswer
{
    private SignInAnswer() { }

    /// <summary>Welcome.</summary>
    /// <param name="Person">Who.</param>
    /// <param name="Stamp">Changes when every sign-in of the person must end.</param>
    /// <param name="Token">Stands for this sign-in; only its hash is kept.</param>
    /// <param name="Browser">What this browser may keep, so that guessers elsewhere do not shut its people out.</param>
    public sealed record Welcome(Person Person, string Stamp, string Token, string Browser) : SignInAnswer;

    /// <summary>The password is right; the code of the second factor is wanted.</summary>
    /// <param name="Person">Who.</param>
    /// <param name="Stamp">As it stands now.</param>
    public sealed record AskCode(PersonId Person, string Stamp) : SignInAnswer;

    /// <summary>Address or password is not right; which of them is not told.</summary>
    public sealed record Wrong : SignInAnswer;

    /// <summary>Too many tries.</summary>
    public sealed record TooMany : SignInAnswer;
}

/// <summary>Where a try comes from.</summary>
/// <param name="Network">The network address.</param>
/// <param name="Known">What the browser kept from an earlier sign-in; null for none.</param>
/// <param name="Browser">What it says of itself, as far as it matters.</param>
public sealed record SignInPlace(string Network, string? Known = null, string Browser = "");

/// <summary>Who is signed in, in one request.</summary>
/// <param name="Person">Who.</param>
/// <param name="Viewer">What they may reach; where they look as somebody else, what that one may.</param>
/// <param name="Looking">Whom they look as; null where they look themselves.</param>
public sealed record SignedInPerson(Person Person, Viewer Viewer, LookingAs? Looking);

/// <summary>Signs people in, and says who a signed-in person is.</summary>
public sealed class SignIn(AlmanacDatabase database, IClock clock, Passwords passwords, Secrets secrets)
{
    /// <summary>How many wrong tries one e-mail address has from one network, or one browser, in <see cref="Window"/>.</summary>
    public const int Tries = 10;

    /// <summary>How many it has from all networks together, from which it has not been signed in to before.</summary>
    public const int TriesFromAnywhere = 100;

    /// <summary>How long a sign-in lasts: a school day.</summary>
    public static readonly Duration Lasts = Duration.FromHours(12);

    /// <summary>The longest e-mail address that is looked at.</summary>
    public const int LongestEmail = 200;

    /// <summary>How long it takes until tries count anew.</summary>
    public static readonly TimeSpan Window = TimeSpan.FromMinutes(5);

    private readonly WrongTries perEmail = new(Tries, Window);
    private readonly WrongTries anywhere = new(TriesFromAnywhere, Window);
    private readonly WrongTries codes = new(Tries, Window);

    // A whole school may share one network address.
    private readonly WrongTries perNetwork = new(Tries * 20, Window);

    /// <summary>Checks an e-mail address and a password.</summary>
    /// <param name="email">As typed.</param>
    /// <param name="password">As typed.</param>
    /// <param name="place">Where the try comes from.</param>
    public SignInAnswer Try(string email, string password, SignInPlace place)
    {
        email = email.Trim();
        // Nothing that long is an address or a password; it becomes no key, no query and no row.
        if (email.Length > LongestEmail || password.Length > Passwords.Longest) return new SignInAnswer.Wrong();
        var account = email.ToUpperInvariant();
        var found = database.Read(stores => stores.People.FindByEmail(email));
        // In a browser where they signed in before, a person is not shut out by who guesses elsewhere; it has tries of its own.
        var isKnown = found is not null && place.Known is { Length: Secrets.TokenLength } known && CryptographicOperations.FixedTimeEquals(
            Encoding.ASCII.GetBytes(known), Encoding.ASCII.GetBytes(secrets.ProofOfBrowser(found.Person.Id)));
        var key = isKnown ? $"{account} known" : $"{account} {place.Network}";
        // Counted before it is looked at: many at once are no way around.
        if (!perEmail.Take(key)) return new SignInAnswer.TooMany();
        if (!isKnown && (!perNetwork.Take(place.Network) || !anywhere.Take(account)))
        {
            perEmail.GiveBack(key);
            return new SignInAnswer.TooMany();
        }

        if (!passwords.Matches(found?.PasswordHash, password) || found is null) return new SignInAnswer.Wrong();
        perEmail.GiveBack(key);
        if (!isKnown)
        {
            perNetwork.GiveBack(place.Network);
            anywhere.GiveBack(account);
        }

        return found.HasFactor ? new SignInAnswer.AskCode(found.Person.Id, found.Stamp) : Welcome(found, place.Browser);
    }

    /// <summary>
    /// Signs in whose address it is, as somebody vouches for whom the school trusts with that. Who has a second factor here is asked for
    /// its code all the same.
    /// </summary>
    /// <param name="email">An address that was verified there.</param>
    /// <param name="place">Where the try comes from.</param>
    public SignInAnswer TryVouched(string email, SignInPlace place) =>
        email.Length is 0 or > LongestEmail || database.Read(stores => stores.People.FindByEmail(email)) is not { } found
            ? new SignInAnswer.Wrong()
            : found.HasFactor ? new SignInAnswer.AskCode(found.Person.Id, found.Stamp) : Welcome(found, place.Browser);

    /// <summary>Checks the code of a second factor, or a recovery code, after the password was right.</summary>
    /// <param name="id">Who.</param>
    /// <param name="stamp">As it stood when the password was right.</param>
    /// <param name="code">As typed.</param>
    /// <param name="place">Where the try comes from.</param>
    public SignInAnswer TryCode(PersonId id, string stamp, string code, SignInPlace place)
    {
        var key = $"code {id.Value}";
        if (!codes.Take(key)) return new SignInAnswer.TooMany();
        var now = clock.GetCurrentInstant();
        var found = database.Write(stores =>
        {
            if (stores.People.Find(id) is not { HasFactor: true } one || one.Stamp != stamp) return null;
            var step = SecondFactor.StepOf(secrets.KeyOfFactor(id, one.Factor), code, now);
            var isRight = step is { } at ? stores.People.UseFactorStep(id, at)
                : SecondFactor.PlainRecovery(code) is { } plain && stores.People.UseRecoveryCode(id, secrets.HashOfRecovery(plain));
            return isRight ? one : null;
        }, one => one is not null);
        if (found is null) return new SignInAnswer.Wrong();
        codes.GiveBack(key);
        return Welcome(found, place.Browser);
    }

    /// <summary>Signs somebody in who has proven who they are in another way.</summary>
    internal SignInAnswer.Welcome Welcome(Credentials found, string browser)
    {
        var (token, now) = (Secrets.NewKey(), clock.GetCurrentInstant());
        database.Write(stores =>
        {
            stores.People.NoteSignIn(found.Person.Id, now);
            stores.SignIns.Add(found.Person.Id, Secrets.HashOf(token), now + Lasts, now, browser.Length > 60 ? browser[..60] : browser);
            return true;
        }, kept => kept);
        return new SignInAnswer.Welcome(found.Person, found.Stamp, token, secrets.ProofOfBrowser(found.Person.Id));
    }

    /// <summary>Ends a sign-in for good: its cookie is worth nothing from then on.</summary>
    public void End(string token)
    {
        if (token.Length == Secrets.TokenLength)
            database.Write(stores => { stores.SignIns.End(Secrets.HashOf(token)); return true; }, kept => kept);
    }

    /// <summary>The person of a sign-in and what they may reach, where it has not ended and its stamp still holds; else null.</summary>
    public SignedInPerson? Find(PersonId id, string stamp, string token)
    {
        if (token.Length != Secrets.TokenLength) return null;
        // A page asks for itself and its pieces, a film for its parts: read once for as long as nothing at all is written, and for a few
        // seconds at most, as a sign-in ends by itself.
        var (epoch, now, key) = (database.Epoch(), clock.GetCurrentInstant(), (id, stamp, token));
        if (known.TryGetValue(key, out var last) && last.Epoch == epoch && last.At <= now && now - last.At < KnownFor) return last.Found;
        known.TryRemove(key, out _);
        if (Read(id, stamp, token) is not { } found) return null;
        if (known.Count >= MostKnown) known.Clear();
        known[key] = (epoch, now, found);
        return found;
    }

    private const int MostKnown = 4_000;

    private static readonly Duration KnownFor = Duration.FromSeconds(5);

    private readonly ConcurrentDictionary<(PersonId, string, string), (long Epoch, Instant At, SignedInPerson Found)> known = new();

    private SignedInPerson? Read(PersonId id, string stamp, string token) => database.Read(stores =>
    {
        if (stores.People.Find(id) is not { } found || found.Stamp != stamp) return null;
        var (isGood, looks) = stores.SignIns.Find(id, Secrets.HashOf(token), clock.GetCurrentInstant());
        if (!isGood) return null;
        var own = stores.People.ViewerOf(id);
        return looks is not null && LookingAs.Read(stores, own, looks) is var (viewer, looking)
            ? new SignedInPerson(found.Person, viewer, looking) : new SignedInPerson(found.Person, own, null);
    });
}
