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
    public sealed record Welcome(Person Person, string Stamp, string Token) : SignInAnswer;

    /// <summary>Address or password is not right; which of them is not told.</summary>
    public sealed record Wrong : SignInAnswer;

    /// <summary>Too many tries.</summary>
    public sealed record TooMany : SignInAnswer;
}

/// <summary>Signs people in, and says who a signed-in person is.</summary>
public sealed class SignIn(AlmanacDatabase database, IClock clock, Passwords passwords)
{
    /// <summary>How many wrong tries one e-mail address has from one network in <see cref="Window"/>.</summary>
    public const int Tries = 10;

    /// <summary>How many it has from all networks together, from which it has not been signed in to before.</summary>
    public const int TriesFromAnywhere = 100;

    /// <summary>How long a sign-in lasts: a school day.</summary>
    public static readonly Duration Lasts = Duration.FromHours(12);

    /// <summary>The longest e-mail address that is looked at.</summary>
    public const int LongestEmail = 200;

    private const int MostKnown = 5_000;

    /// <summary>How long it takes until tries count anew.</summary>
    public static readonly TimeSpan Window = TimeSpan.FromMinutes(5);

    private readonly WrongTries perEmail = new(Tries, Window);
    private readonly WrongTries anywhere = new(TriesFromAnywhere, Window);

    // Where somebody signed in rightly before: whoever guesses from elsewhere does not shut them out.
    private readonly System.Collections.Concurrent.ConcurrentDictionary<string, byte> known = new(StringComparer.Ordinal);

    // A whole school may share one network address.
    private readonly WrongTries perNetwork = new(Tries * 20, Window);

    /// <summary>Checks an e-mail address and a password.</summary>
    /// <param name="email">As typed.</param>
    /// <param name="password">As typed.</param>
    /// <param name="network">The network address the request comes from.</param>
    public SignInAnswer Try(string email, string password, string network)
    {
        email = email.Trim();
        // Nothing that long is an address or a password; it becomes no key, no query and no row.
        if (email.Length > LongestEmail || password.Length > Passwords.Longest) return new SignInAnswer.Wrong();
        var account = email.ToUpperInvariant();
        var key = $"{account} {network}";
        var isKnown = known.ContainsKey(key);
        // Counted before it is looked at: many at once are no way around.
        if (!perEmail.Take(key)) return new SignInAnswer.TooMany();
        if (!perNetwork.Take(network) || (!isKnown && !anywhere.Take(account)))
        {
            perEmail.GiveBack(key);
            return new SignInAnswer.TooMany();
        }

        var found = database.Read(stores => stores.People.FindByEmail(email));
        if (!passwords.Matches(found?.PasswordHash, password) || found is null) return new SignInAnswer.Wrong();
        perEmail.GiveBack(key);
        perNetwork.GiveBack(network);
        if (!isKnown) anywhere.GiveBack(account);
        if (known.Count >= MostKnown) known.Clear();
        known[key] = 1;
        var (token, now) = (Secrets.NewKey(), clock.GetCurrentInstant());
        database.Write(stores =>
        {
            stores.People.NoteSignIn(found.Person.Id, now);
            stores.People.AddSignIn(found.Person.Id, Secrets.HashOf(token), now + Lasts, now);
            return true;
        }, kept => kept);
        return new SignInAnswer.Welcome(found.Person, found.Stamp, token);
    }

    /// <summary>Ends a sign-in for good: its cookie is worth nothing from then on.</summary>
    public void End(string token)
    {
        if (token.Length == Secrets.TokenLength)
            database.Write(stores => { stores.People.EndSignIn(Secrets.HashOf(token)); return true; }, kept => kept);
    }

    /// <summary>The person of a sign-in and what they may reach, where it has not ended and its stamp still holds; else null.</summary>
    public (Person Person, Viewer Viewer)? Find(PersonId id, string stamp, string token) => database.Read<(Person, Viewer)?>(stores =>
        token.Length == Secrets.TokenLength && stores.People.Find(id) is { } found && found.Stamp == stamp
            && stores.People.HasSignIn(id, Secrets.HashOf(token), clock.GetCurrentInstant())
            ? (found.Person, stores.People.ViewerOf(id)) : null);
}
