using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.People;

/// <summary>What an invitation's page shows to who has its address.</summary>
/// <param name="Name">Whose it is.</param>
/// <param name="Email">Their address.</param>
/// <param name="IsReset">It is for a new password.</param>
/// <param name="EndsAt">From when on it is worth nothing.</param>
public sealed record WayIn(string Name, EmailAddress? Email, bool IsReset, Instant EndsAt);

/// <summary>Invites people, and lets them in: by a letter with an address that works once, and for a while.</summary>
public sealed class Invitations(
    Gate gate,
    AlmanacDatabase database,
    IClock clock,
    Secrets secrets,
    Passwords passwords,
    SignIn.SignIn signIn
)
{
    /// <summary>How long an invitation lasts.</summary>
    public static readonly Duration Lasts = Duration.FromDays(14);

    /// <summary>How long one for a new password lasts.</summary>
    public static readonly Duration ResetLasts = Duration.FromHours(1);

    private static readonly Duration BetweenResets = Duration.FromMinutes(5);

    /// <summary>Invites people, or sends their invitation again: the letter before is worth nothing then.</summary>
    /// <returns>How many were invited; those who have no address, who have left, and who can sign in already are not.</returns>
    public Outcome<int> Invite(Viewer viewer, IReadOnlyCollection<PersonId> people) =>
        gate.Write<int>(Operation.Invite, viewer, at =>
        {
            var invited = 0;
            foreach (var id in people.Distinct())
            {
                if (
                    at.Stores.People.Entry(id, at.Now)
                    is not { HasPassword: false, Person: { EndedAt: null, Email: not null } person }
                )
                    continue;
                Write(secrets, at.Stores, id, InvitationPurpose.Join, at.Person, at.Now, Lasts);
                at.Note(HistorySubject.Person, id.Value, $"invited {person.Name}");
                invited++;
            }

            return invited > 0
                ? new Outcome<int>.Done(invited)
                : Outcome.Because<int>(
                    "",
                    "Nobody could be invited: they can sign in already, have left, or have no e-mail address."
                );
        });

    /// <summary>Takes an invitation back.</summary>
    public Outcome<int> Withdraw(Viewer viewer, PersonId id) =>
        gate.Write<int>(Operation.WithdrawInvitation, viewer, at =>
        {
            if (at.Stores.People.Get(id) is not { } person)
                return new Outcome<int>.NotFound();
            if (at.Stores.Invitations.Withdraw(id, InvitationPurpose.Join, at.Now) == 0)
                return Outcome.Because<int>("", $"No invitation of {person.Name} is open.");
            at.Note(HistorySubject.Person, id.Value, $"took the invitation of {person.Name} back");
            return new Outcome<int>.Done(1);
        });

    /// <summary>
    /// Somebody asks for a new password. They get a letter where they can have one; whether, nobody is told. Two within five minutes
    /// are one.
    /// </summary>
    public void AskReset(string typed)
    {
        if (!EmailAddress.TryParse(typed.Trim(), null, out var email))
            return;
        var now = clock.GetCurrentInstant();
        database.Write(
            stores =>
            {
                if (stores.People.FindByEmail(email) is not { } found)
                    return false;
                if (
                    stores.Invitations.Newest(found.Person.Id, InvitationPurpose.Reset) is { } last
                    && now - last.MadeAt < BetweenResets
                )
                    return false;
                Write(secrets, stores, found.Person.Id, InvitationPurpose.Reset, null, now, ResetLasts);
                return true;
            },
            kept => kept
        );
    }

    /// <summary>
    /// What stands at the address of an invitation; null where it is none, or works no longer: which of them is not told.
    /// </summary>
    public WayIn? At(string token) =>
        Find(token) is var (invitation, person)
            ? new WayIn(person.Name, person.Email, invitation.Purpose == InvitationPurpose.Reset, invitation.EndsAt)
            : null;

    /// <summary>Uses an invitation: its person has that password from then on, and is signed in.</summary>
    /// <param name="token">From the address.</param>
    /// <param name="name">The name they want to be called by; null to leave it.</param>
    /// <param name="password">Their password.</param>
    /// <param name="browser">What the browser says of itself.</param>
    public Outcome<SignInAnswer> Use(string token, string? name, string password, string browser)
    {
        if (Find(token) is not var (invitation, person))
            return new Outcome<SignInAnswer>.NotFound();
        var entry = new FormReader();
        var called = name is null ? person.Name : PersonFields.Read(entry, name, person.Email?.Value, null, "").Name;
        if (PasswordRules.WhyNot(password, called, person.Email) is { } reason)
            entry.Wrong("Password", reason);
        if (!entry.IsGood)
            return new Outcome<SignInAnswer>.Refused(entry.Problems);
        // Hashed before the write lock is taken.
        var (hash, stamp, now) = (passwords.Hash(password), Secrets.NewStamp(), clock.GetCurrentInstant());
        var found = database.Write(
            stores =>
            {
                if (!stores.Invitations.Use(invitation.Id, now) || stores.People.Find(person.Id) is not { } one)
                    return null;
                if (called != one.Person.Name)
                    stores.People.Change(person.Id, called, person.Email, one.Person.Role, one.Person.Version);
                stores.People.SetPassword(person.Id, hash, stamp);
                stores.SignIns.EndAll(person.Id, null);
                stores.History.Add(
                    now,
                    person.Id,
                    null,
                    HistorySubject.Person,
                    person.Id.Value,
                    "UseInvitation",
                    invitation.Purpose == InvitationPurpose.Reset
                        ? "chose a new password by e-mail"
                        : "accepted the invitation",
                    null,
                    null
                );
                return stores.People.Find(person.Id);
            },
            kept => kept is not null
        );
        return found is null
            ? new Outcome<SignInAnswer>.NotFound()
            // Whoever has the mailbox has not the device: the second factor is asked for, too.
            : new Outcome<SignInAnswer>.Done(
                found.HasFactor ? new SignInAnswer.AskCode(person.Id, found.Stamp) : signIn.Welcome(found, browser)
            );
    }

    /// <summary>Makes an invitation, and the letter that brings it: the one before it is worth nothing then.</summary>
    internal static void Write(
        Secrets secrets,
        Stores stores,
        PersonId person,
        InvitationPurpose purpose,
        PersonId? by,
        Instant now,
        Duration lasts
    )
    {
        var made = stores.Invitations.Add(person, purpose, by, now, now + lasts, (id, generation) =>
            Secrets.HashOf(secrets.TokenOfInvitation(id, generation))
        );
        stores.Letters.Add(
            purpose == InvitationPurpose.Join ? LetterKind.Invitation : LetterKind.Reset,
            person,
            made.Id,
            now
        );
    }

    private (Invitation Invitation, Person Person)? Find(string token) =>
        token.Length != TokenText.Length
            ? null
            : database.Read<(Invitation, Person)?>(stores =>
                stores.Invitations.Find(Secrets.HashOf(token)) is { } found
                && found.IsOpen(clock.GetCurrentInstant())
                && stores.People.Find(found.Person) is { } person
                    ? (found, person.Person)
                    : null
            );
}
