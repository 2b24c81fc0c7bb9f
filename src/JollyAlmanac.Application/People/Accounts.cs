using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.People;

/// <summary>A place where one is signed in, as its page shows it.</summary>
/// <param name="Key">Knows it on the page.</param>
/// <param name="Browser">What the browser says of itself; empty where it says nothing.</param>
/// <param name="MadeAt">When one signed in there; null where that was not noted.</param>
/// <param name="EndsAt">When it ends by itself.</param>
/// <param name="IsHere">It is this one.</param>
public sealed record AccountPlace(string Key, string Browser, Instant? MadeAt, Instant EndsAt, bool IsHere);

/// <summary>One's own account.</summary>
/// <param name="Person">Who.</param>
/// <param name="HasPassword">They have a password.</param>
/// <param name="HasFactor">The second factor is asked for.</param>
/// <param name="CodesLeft">How many recovery codes are left.</param>
/// <param name="Places">Where they are signed in.</param>
/// <param name="BeingSetUp">The key of a second factor that is begun and not confirmed, as one types it; null for none.</param>
/// <param name="Picture">The same as an address, for a picture that an app reads.</param>
public sealed record Account(
    Person Person,
    bool HasPassword,
    bool HasFactor,
    int CodesLeft,
    IReadOnlyList<AccountPlace> Places,
    string? BeingSetUp,
    string? Picture
)
{
    /// <summary>How they read times and dates; null for as the school has it.</summary>
    public (bool? TwelveHours, bool? MonthFirst) Writing { get; init; }
}

/// <summary>One's own account: name, password, second factor, and where one is signed in.</summary>
public sealed class Accounts(Gate gate, Passwords passwords, Secrets secrets)
{
    private readonly AttemptLimiter tries = new(SignIn.SignIn.Tries, SignIn.SignIn.Window);

    /// <summary>The account of the viewer; null for a visitor, and for who looks as somebody else.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="token">Their sign-in.</param>
    public Account? Open(Viewer viewer, string token) => gate.Read<Account>(Operation.SeeAccount, viewer, at =>
        {
            if (viewer.LookedAtBy is not null || at.Stores.People.Find(at.Person) is not { } found)
                return new Outcome<Account>.NotFound();
            var here = Secrets.HashOf(token);
            var key = found is { Factor: > 0, HasFactor: false } ? secrets.KeyOfFactor(at.Person, found.Factor) : null;
            return new Outcome<Account>.Done(
                new Account(
                    found.Person,
                    found.PasswordHash is not null,
                    found.HasFactor,
                    at.Stores.People.RecoveryCodes(at.Person),
                    [
                        .. at
                            .Stores.SignIns.Of(at.Person, at.Now)
                            .Select(one => new AccountPlace(
                                Convert.ToHexStringLower(one.Hash),
                                one.Browser,
                                one.MadeAt,
                                one.EndsAt,
                                one.Hash.AsSpan().SequenceEqual(here)
                            )),
                    ],
                    key is null ? null : SecondFactor.Written(key),
                    key is null ? null : SecondFactor.AddressOf(key, at.School.Name, found.Person.Email)
                )
                {
                    Writing = at.Stores.People.WritingOf(at.Person),
                }
            );
        }).OrNone;

    /// <summary>Changes one's own name.</summary>
    public Outcome<string> Rename(Viewer viewer, string? name, int version) =>
        gate.Write<string>(Operation.ChangeAccount, viewer, at =>
        {
            var entry = new FormReader();
            var called = entry.Line("Name", name, "The name", PersonFields.LongestName, needed: true);
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            var person = at.Stores.People.Get(at.Person)!;
            if (!at.Stores.People.Change(at.Person, called, person.Email, person.Role, version))
                return new Outcome<string>.Stale(null);
            at.Note(HistorySubject.Person, at.Person.Value, $"is called {called}, in place of {person.Name}");
            return new Outcome<string>.Done(called);
        });

    /// <summary>Sets how one reads times and dates.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="twelveHours">By twelve hours; null for as the school has it.</param>
    /// <param name="monthFirst">The month before the day; null for as the school has it.</param>
    public Outcome<bool> SetWriting(Viewer viewer, bool? twelveHours, bool? monthFirst) =>
        gate.Write<bool>(Operation.ChangeAccount, viewer, at =>
        {
            if (at.Stores.People.WritingOf(at.Person) == (twelveHours, monthFirst))
                return new Outcome<bool>.Done(false);
            at.Stores.People.SetWriting(at.Person, twelveHours, monthFirst);
            at.Note(HistorySubject.Person, at.Person.Value, "chose how times and dates are written for them");
            return new Outcome<bool>.Done(true);
        });

    /// <summary>Changes one's own password: all other sign-ins end.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="token">Their sign-in, which stays.</param>
    /// <param name="old">The password they have.</param>
    /// <param name="password">The one they want.</param>
    /// <returns>The stamp that their sign-in goes by from now on.</returns>
    public Outcome<string> ChangePassword(Viewer viewer, string token, string? old, string? password)
    {
        var key = $"{viewer.Person?.Value}";
        if (!tries.Take(key))
            return Outcome.Because<string>("Old", "That was tried too often. Wait five minutes, then try again.");
        var known = gate.Read<Credentials>(Operation.SeeAccount, viewer, at =>
            viewer.LookedAtBy is null && at.Stores.People.Find(at.Person) is { } found
                ? new Outcome<Credentials>.Done(found)
                : new Outcome<Credentials>.NotAllowed()
        );
        if (known is not Outcome<Credentials>.Done { Value: var mine })
            return known.Select(_ => "");
        if (
            mine.PasswordHash is not null
            && !passwords.Matches(mine.PasswordHash, (old ?? "").Length > Passwords.Longest ? "" : old ?? "")
        )
            return Outcome.Because<string>("Old", "That is not your present password. Nothing was changed.");
        tries.GiveBack(key);
        if (PasswordRules.WhyNot(password ?? "", mine.Person.Name, mine.Person.Email) is { } reason)
            return Outcome.Because<string>("Password", reason);
        var (hash, stamp) = (passwords.Hash(password!), Secrets.NewStamp());
        return gate.Write<string>(Operation.ChangeAccount, viewer, at =>
        {
            at.Stores.People.SetPassword(at.Person, hash, stamp);
            at.Stores.SignIns.EndAll(at.Person, Secrets.HashOf(token));
            at.Note(HistorySubject.Person, at.Person.Value, "changed the password");
            return new Outcome<string>.Done(stamp);
        });
    }

    /// <summary>Ends one of one's own sign-ins.</summary>
    public Outcome<int> EndPlace(Viewer viewer, string? key) =>
        gate.Write<int>(Operation.ChangeAccount, viewer, at =>
            key?.Length == 64
            && key.All(char.IsAsciiHexDigit)
            && at.Stores.SignIns.End(at.Person, Convert.FromHexString(key))
                ? new Outcome<int>.Done(1)
                : new Outcome<int>.NotFound()
        );

    /// <summary>Ends all of one's own sign-ins but this one.</summary>
    /// <returns>How many they were.</returns>
    public Outcome<int> EndOthers(Viewer viewer, string token) =>
        gate.Write<int>(Operation.ChangeAccount, viewer, at => new Outcome<int>.Done(
            at.Stores.SignIns.EndAll(at.Person, Secrets.HashOf(token))
        ));

    /// <summary>Begins a second factor: it has a key from now on, and is asked for once a code of it was given.</summary>
    public Outcome<bool> BeginFactor(Viewer viewer) => gate.Write<bool>(Operation.ChangeAccount, viewer, at =>
        {
            var found = at.Stores.People.Find(at.Person)!;
            if (found.HasFactor)
                return Outcome.Because<bool>("", "You have a second factor already. End it first.");
            at.Stores.People.SetFactor(at.Person, found.Factor + 1, null, 0);
            return new Outcome<bool>.Done(true);
        });

    /// <summary>Confirms a second factor by a code: from now on it is asked for.</summary>
    /// <returns>The recovery codes, which nobody can show again.</returns>
    public Outcome<IReadOnlyList<string>> ConfirmFactor(Viewer viewer, string? code) =>
        gate.Write<IReadOnlyList<string>>(Operation.ChangeAccount, viewer, at =>
        {
            var found = at.Stores.People.Find(at.Person)!;
            if (found is not { Factor: > 0, HasFactor: false })
                return Outcome.Because<IReadOnlyList<string>>(
                    "Code",
                    "No second factor is being set up. Begin one first."
                );
            if (SecondFactor.StepOf(secrets.KeyOfFactor(at.Person, found.Factor), code ?? "", at.Now) is not { } step)
                return Outcome.Because<IReadOnlyList<string>>(
                    "Code",
                    "That is not the code of this moment. Look at your device again; its clock must be right, too."
                );
            at.Stores.People.SetFactor(at.Person, found.Factor, at.Now, step);
            List<string> codes =
            [
                .. Enumerable.Range(0, SecondFactor.RecoveryCodes).Select(_ => SecondFactor.NewRecovery()),
            ];
            at.Stores.People.SetRecoveryCodes(
                at.Person,
                codes.Select(one => secrets.HashOfRecovery(SecondFactor.PlainRecovery(one)!))
            );
            at.Note(HistorySubject.Person, at.Person.Value, "set up a second factor");
            return new Outcome<IReadOnlyList<string>>.Done(codes);
        });

    /// <summary>Ends the second factor, by one's password.</summary>
    public Outcome<bool> EndFactor(Viewer viewer, string? password)
    {
        var key = $"{viewer.Person?.Value}";
        if (!tries.Take(key))
            return Outcome.Because<bool>(
                "FactorPassword",
                "That was tried too often. Wait five minutes, then try again."
            );
        var hash = gate.Read<string>(Operation.SeeAccount, viewer, at => new Outcome<string>.Done(
            at.Stores.People.Find(at.Person)?.PasswordHash ?? ""
        ));
        if (hash is not Outcome<string>.Done { Value: var known })
            return hash.Select(_ => false);
        if (
            (password ?? "").Length > Passwords.Longest
            || !passwords.Matches(known.Length > 0 ? known : null, password ?? "")
        )
            return Outcome.Because<bool>("FactorPassword", "That is not your password. Nothing was changed.");
        tries.GiveBack(key);
        return gate.Write<bool>(Operation.ChangeAccount, viewer, at =>
        {
            End(at.Stores, at.Person);
            at.Note(HistorySubject.Person, at.Person.Value, "ended the second factor");
            return new Outcome<bool>.Done(true);
        });
    }

    internal static void End(Stores stores, PersonId id)
    {
        stores.People.SetFactor(id, stores.People.Find(id)?.Factor ?? 0, null, 0);
        stores.People.SetRecoveryCodes(id, []);
    }
}
