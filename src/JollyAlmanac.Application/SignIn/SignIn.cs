using System.Diagnostics;
using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.Caching;
using JollyAlmanac.Storage.People;
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
/// <param name="Wide">The network around it, where one visitor can take many; null for the same.</param>
public sealed record SignInPlace(string Network, string? Known = null, string Browser = "", string? Wide = null);

/// <summary>Who is signed in, in one request.</summary>
/// <param name="Person">Who.</param>
/// <param name="Viewer">What they may reach; where they look as somebody else, what that one may.</param>
/// <param name="Looking">Whom they look as; null where they look themselves.</param>
public sealed record SignedInPerson(Person Person, Viewer Viewer, PreviewIdentity? Looking);

/// <summary>Signs people in, and says who a signed-in person is.</summary>
public sealed class SignIn(AlmanacDatabase database, IClock clock, Passwords passwords, Secrets secrets) : IDisposable
{
    /// <inheritdoc/>
    public void Dispose()
    {
        strangers.Dispose();
        knownBrowsers.Dispose();
        known.Dispose();
    }

    /// <summary>How many wrong tries one e-mail address has from one network, or one browser, in <see cref="Window"/>.</summary>
    public const int Tries = 10;

    /// <summary>How many it has from all networks together, from which it has not been signed in to before.</summary>
    public const int TriesFromAnywhere = 100;

    /// <summary>How many further networks may each try once then.</summary>
    public const int FirstTriesFromAnywhere = 1_000;

    /// <summary>How long a sign-in lasts: a school day.</summary>
    public static readonly Duration Lasts = Duration.FromHours(12);

    /// <summary>How long it takes until tries count anew.</summary>
    public static readonly TimeSpan Window = TimeSpan.FromMinutes(5);

    private readonly AttemptLimiter perEmail = new(Tries, Window);
    private readonly AttemptLimiter anywhere = new(TriesFromAnywhere, Window);
    private readonly AttemptLimiter codes = new(Tries, Window);
    private readonly AttemptLimiter codesFromAnywhere = new(TriesFromAnywhere, Window);

    // The first try of an account from a network is looked at whatever others there have done.
    private readonly AttemptLimiter first = new(1, Window);

    // But for somebody whom a thousand networks guess at.
    private readonly AttemptLimiter firstFromAnywhere = new(FirstTriesFromAnywhere, Window);

    // Hashing takes a core for a tenth of a second: one at a time for whom nothing is known of, and one for browsers that are known.
    private readonly SemaphoreSlim strangers = new(1),
        knownBrowsers = new(1);

    // A whole school may share one network address.
    private readonly AttemptLimiter perNetwork = new(Tries * 20, Window);

    // So many wait for their turn at most; others are asked to come again.
    private const int MostWaiting = 60;

    private int waiting;
    private TimeSpan lastHash = TimeSpan.FromMilliseconds(100);

    /// <summary>The part behind the @ that all addresses of the school have; null where there are several.</summary>
    public string? Domain => database.Read(stores => stores.People.OnlyDomain());

    /// <summary>Checks an e-mail address and a password.</summary>
    /// <param name="typed">The address as typed; the part before the @ is enough where there is a <see cref="Domain"/>.</param>
    /// <param name="password">As typed.</param>
    /// <param name="place">Where the try comes from.</param>
    /// <param name="cancellation">Ends the waiting for one's turn.</param>
    public async Task<SignInAnswer> Try(
        string typed,
        string password,
        SignInPlace place,
        CancellationToken cancellation = default
    )
    {
        typed = typed.Trim();
        // Where the whole school has one, what stands behind the @ need not be written.
        if (
            typed is { Length: > 0 and < 100 }
            && !typed.Contains('@', StringComparison.Ordinal)
            && Domain is { } domain
        )
            typed = $"{typed}@{domain}";
        // Nothing that long is an address or a password; it becomes no key, no query and no row.
        if (typed.Length > EmailAddress.Longest || password.Length > Passwords.Longest)
            return new SignInAnswer.Wrong();
        var account = typed.ToUpperInvariant();
        var found = EmailAddress.TryParse(typed, null, out var email)
            ? database.Read(stores => stores.People.FindByEmail(email))
            : null;
        // In a browser where they signed in before, a person is not shut out by who guesses elsewhere; it has tries of its own.
        var isKnown = found is not null && IsKnown(found.Person.Id, place);
        var key = isKnown ? $"{account} known" : $"{account} {place.Network}";
        // Counted before it is looked at: many at once are no way around.
        if (!perEmail.Take(key))
            return new SignInAnswer.TooMany();
        var wide = place.Wide ?? place.Network;
        var isFirst = first.Take($"{account} {wide}");
        var (nearby, everywhere) = isKnown ? (true, true) : (perNetwork.Take(wide), anywhere.Take(account));
        if (!(nearby && everywhere) && !(isFirst && firstFromAnywhere.Take(account)))
        {
            perEmail.GiveBack(key);
            if (nearby)
                perNetwork.GiveBack(wide);
            if (everywhere)
                anywhere.GiveBack(account);
            return new SignInAnswer.TooMany();
        }

        // No turn is taken for an account that is not there; it is answered after as long a time as one that is.
        if (!(nearby && everywhere) && found is null)
        {
            await Task.Delay(lastHash, cancellation);
            return new SignInAnswer.Wrong();
        }

        if (await Matches(isKnown, found?.PasswordHash, password, cancellation) is not { } isRight)
            return new SignInAnswer.TooMany();
        if (!isRight || found is null)
            return new SignInAnswer.Wrong();
        perEmail.GiveBack(key);
        first.GiveBack($"{account} {wide}");
        if (!isKnown)
        {
            if (nearby)
                perNetwork.GiveBack(wide);
            if (everywhere)
                anywhere.GiveBack(account);
        }

        return found.HasFactor ? new SignInAnswer.AskCode(found.Person.Id, found.Stamp) : Welcome(found, place.Browser);
    }

    // Null where too many wait.
    private async Task<bool?> Matches(bool isKnown, string? hash, string password, CancellationToken cancellation)
    {
        var turn = isKnown ? knownBrowsers : strangers;
        try
        {
            if (Interlocked.Increment(ref waiting) > MostWaiting && !isKnown)
                return null;
            await turn.WaitAsync(cancellation);
        }
        finally
        {
            Interlocked.Decrement(ref waiting);
        }

        try
        {
            var began = Stopwatch.GetTimestamp();
            var isRight = passwords.Matches(hash, password);
            lastHash = Stopwatch.GetElapsedTime(began);
            return isRight;
        }
        finally
        {
            turn.Release();
        }
    }

    private bool IsKnown(PersonId id, SignInPlace place) =>
        place.Known is { Length: TokenText.Length } kept
        && CryptographicOperations.FixedTimeEquals(
            Encoding.ASCII.GetBytes(kept),
            Encoding.ASCII.GetBytes(secrets.ProofOfBrowser(id))
        );

    /// <summary>
    /// Signs in whose address it is, as somebody vouches for whom the school trusts with that. Who has a second factor here is asked for
    /// its code all the same.
    /// </summary>
    /// <param name="email">An address that was verified there.</param>
    /// <param name="place">Where the try comes from.</param>
    public SignInAnswer TryVouched(EmailAddress email, SignInPlace place) =>
        database.Read(stores => stores.People.FindByEmail(email)) is not { } found ? new SignInAnswer.Wrong()
        : found.HasFactor ? new SignInAnswer.AskCode(found.Person.Id, found.Stamp)
        : Welcome(found, place.Browser);

    /// <summary>Checks the code of a second factor, or a recovery code, after the password was right.</summary>
    /// <param name="id">Who.</param>
    /// <param name="stamp">As it stood when the password was right.</param>
    /// <param name="code">As typed.</param>
    /// <param name="place">Where the try comes from.</param>
    public SignInAnswer TryCode(PersonId id, string stamp, string code, SignInPlace place)
    {
        // Counted by where it comes from: whoever has the password and guesses codes does not shut the owner out elsewhere.
        var isKnown = IsKnown(id, place);
        var key = isKnown ? $"{id.Value} known" : $"{id.Value} {place.Wide ?? place.Network}";
        var mayGuess = codes.Take(key);
        var (account, anywhere) = ($"{id.Value}", isKnown || !mayGuess);
        if (!anywhere && !codesFromAnywhere.Take(account))
            mayGuess = false;
        var now = clock.GetCurrentInstant();
        // A recovery code cannot be guessed, so it always counts.
        if (!mayGuess && SecondFactor.PlainRecovery(code) is null)
            return TooManyCodes(id, stamp, now);
        var found = database.Write(
            stores =>
            {
                if (stores.People.Find(id) is not { HasFactor: true } one || one.Stamp != stamp)
                    return null;
                var step = mayGuess ? SecondFactor.StepOf(secrets.KeyOfFactor(id, one.Factor), code, now) : null;
                var isRight = step is { } at
                    ? stores.People.UseFactorStep(id, at)
                    : SecondFactor.PlainRecovery(code) is { } plain
                        && stores.People.UseRecoveryCode(id, secrets.HashOfRecovery(plain));
                return isRight ? one : null;
            },
            one => one is not null
        );
        if (found is null)
            return new SignInAnswer.Wrong();
        if (mayGuess)
        {
            codes.GiveBack(key);
            if (!isKnown)
                codesFromAnywhere.GiveBack(account);
        }

        return Welcome(found, place.Browser);
    }

    // Somebody has the password: its owner is told, once a day.
    private SignInAnswer.TooMany TooManyCodes(PersonId id, string stamp, Instant now)
    {
        if (database.Read(stores => stores.People.Find(id)?.Stamp) == stamp)
            database.Write(
                stores =>
                {
                    if (!stores.Letters.WasMade(LetterKind.WrongCodes, id, now - Duration.FromDays(1)))
                        stores.Letters.Add(LetterKind.WrongCodes, id, id.Value, now);
                    return true;
                },
                _ => true
            );
        return new SignInAnswer.TooMany();
    }

    /// <summary>Signs somebody in who has proven who they are in another way.</summary>
    internal SignInAnswer.Welcome Welcome(Credentials found, string browser)
    {
        var (token, now) = (TokenText.New(), clock.GetCurrentInstant());
        database.Write(
            stores =>
            {
                stores.People.NoteSignIn(found.Person.Id, now);
                stores.SignIns.Add(
                    found.Person.Id,
                    Secrets.HashOf(token),
                    now + Lasts,
                    now,
                    browser.Length > 60 ? browser[..60] : browser
                );
                return true;
            },
            kept => kept
        );
        return new SignInAnswer.Welcome(found.Person, found.Stamp, token, secrets.ProofOfBrowser(found.Person.Id));
    }

    /// <summary>Ends a sign-in for good: its cookie is worth nothing from then on.</summary>
    public void End(string token)
    {
        if (token.Length == TokenText.Length)
            database.Write(
                stores =>
                {
                    stores.SignIns.End(Secrets.HashOf(token));
                    return true;
                },
                kept => kept
            );
    }

    /// <summary>The person of a sign-in and what they may reach, where it has not ended and its stamp still holds; else null.</summary>
    public SignedInPerson? Find(PersonId id, string stamp, string token)
    {
        if (token.Length != TokenText.Length)
            return null;
        // A page asks for itself and its pieces, a film for its parts: read once for as long as nothing at all is written, and for a few
        // seconds at most, as a sign-in ends by itself.
        var now = clock.GetCurrentInstant();
        return known.Get((id, stamp, token), now, _ =>
            Read(id, stamp, token) is { } found ? (found, now + KnownFor, 1) : null
        );
    }

    private const int MostKnown = 4_000;

    private static readonly Duration KnownFor = Duration.FromSeconds(5);

    private readonly EpochCache<(PersonId, string, string), SignedInPerson> known = new(database.Epoch, MostKnown);

    private SignedInPerson? Read(PersonId id, string stamp, string token) =>
        database.Read(stores =>
        {
            if (stores.People.Find(id) is not { } found || found.Stamp != stamp)
                return null;
            var (isGood, looks) = stores.SignIns.Find(id, Secrets.HashOf(token), clock.GetCurrentInstant());
            if (!isGood)
                return null;
            var own = stores.People.ViewerOf(id);
            return looks is not null && PreviewIdentity.Read(stores, own, looks) is var (viewer, looking)
                ? new SignedInPerson(found.Person, viewer, looking)
                : new SignedInPerson(found.Person, own, null);
        });
}
