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
    public sealed record Welcome(Person Person, string Stamp) : SignInAnswer;

    /// <summary>Address or password is not right; which of them is not told.</summary>
    public sealed record Wrong : SignInAnswer;

    /// <summary>Too many tries.</summary>
    public sealed record TooMany : SignInAnswer;
}

/// <summary>Signs people in, and says who a signed-in person is.</summary>
public sealed class SignIn(AlmanacDatabase database, IClock clock, Passwords passwords) : IDisposable
{
    /// <summary>How many wrong tries one e-mail address has in <see cref="Window"/>.</summary>
    public const int Tries = 10;

    /// <summary>How long it takes until tries count anew.</summary>
    public static readonly TimeSpan Window = TimeSpan.FromMinutes(5);

    private readonly WrongTries perEmail = new(Tries, Window);

    // A whole school may share one network address.
    private readonly WrongTries perNetwork = new(Tries * 20, Window);

    /// <summary>Checks an e-mail address and a password.</summary>
    /// <param name="email">As typed.</param>
    /// <param name="password">As typed.</param>
    /// <param name="network">The network address the request comes from.</param>
    public SignInAnswer Try(string email, string password, string network)
    {
        email = email.Trim();
        var key = email.ToUpperInvariant();
        if (perEmail.AreTooMany(key) || perNetwork.AreTooMany(network)) return new SignInAnswer.TooMany();
        var found = password.Length <= Passwords.Longest ? database.Read(stores => stores.People.FindByEmail(email)) : null;
        if (!passwords.Matches(found?.PasswordHash, password) || found is null)
        {
            perEmail.Count(key);
            perNetwork.Count(network);
            return new SignInAnswer.Wrong();
        }

        database.Write(stores => { stores.People.NoteSignIn(found.Person.Id, clock.GetCurrentInstant()); return true; }, kept => kept);
        return new SignInAnswer.Welcome(found.Person, found.Stamp);
    }

    /// <summary>The person of a sign-in and what they may reach, where its stamp still holds; else null.</summary>
    public (Person Person, Viewer Viewer)? Find(PersonId id, string stamp) => database.Read<(Person, Viewer)?>(stores =>
        stores.People.Find(id) is { } found && found.Stamp == stamp ? (found.Person, stores.People.ViewerOf(id)) : null);

    /// <inheritdoc />
    public void Dispose()
    {
        perEmail.Dispose();
        perNetwork.Dispose();
    }
}
