using JollyAlmanac.Application.People;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Parsing;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage.People;
using NodaTime;

namespace JollyAlmanac.Application.Sharing;

/// <summary>Somebody who is to be added.</summary>
/// <param name="Request">What is asked.</param>
/// <param name="By">Who asks.</param>
/// <param name="Calendar">The calendar they are to have access to.</param>
public sealed record WaitingPerson(PersonRequest Request, string By, Calendar Calendar)
{
    /// <summary>What they may be called, from their address: "ines.holm@…" is "Ines Holm".</summary>
    public string Name =>
        string.Join(
            ' ',
            Request.Email.LocalPart.Split('.', '_', '-').Where(part => part.Length > 0).Select(Wording.Capital)
        );
}

/// <summary>
/// Who keeps a calendar asks for somebody whom the school does not know; who is of the school is the coordinators' to decide.
/// </summary>
public sealed class AddRequests(Gate gate, Secrets secrets)
{
    private const int Most = 50;

    /// <summary>Asks the coordinators to add somebody, with access to a calendar.</summary>
    /// <param name="viewer">A manager of the calendar.</param>
    /// <param name="slug">The calendar.</param>
    /// <param name="input">The form that gives access; <see cref="GiveInput.Who"/> is one e-mail address.</param>
    /// <returns>The address.</returns>
    public Outcome<EmailAddress> Ask(Viewer viewer, Slug slug, GiveInput input) =>
        gate.Write<EmailAddress>(Operation.AskToAddPerson, viewer, slug, at =>
        {
            var entry = new FormReader();
            var named = AddressList.Read(entry.Bounded("Who", input.Who, "The address", 200)).People;
            if (named.Length != 1)
                entry.Wrong("Who", "Write the e-mail address of the person who is to be added.");
            var level = AccessPhrases.Levels.FirstOrDefault(one => AccessPhrases.NameOf(one) == input.Level);
            // More is given by name once they are there.
            if (level is AccessLevel.None or > AccessLevel.Contributor)
                entry.Wrong("Level", "Somebody new may see it, or add entries. Give them more once they are there.");
            LocalDate? until = string.IsNullOrWhiteSpace(input.Until)
                ? null
                : entry.Day("Until", input.Until, "The last day");
            if (until < at.Today)
                entry.Wrong("Until", $"{Wording.WithYear(until.Value)} is over. Choose today or a later day.");
            if (!entry.IsGood)
                return new Outcome<EmailAddress>.Refused(entry.Problems);
            var email = named[0].Address;
            if (at.Stores.People.Addressed(email) is not null)
                return Outcome.Because<EmailAddress>(
                    "Who",
                    "Somebody of the school has that address. Share it with them."
                );
            if (at.Stores.Requests.OfPeople.WaitingOf(at.Person) >= Most)
                return Outcome.Because<EmailAddress>(
                    "",
                    "Many people you asked for wait already. Let those be added first."
                );
            at.Stores.Requests.OfPeople.Add(at.Calendar.Id, email, level, until, at.Person, at.Now);
            at.Note(
                HistorySubject.Calendar,
                at.Calendar.Id.Value,
                "asked the coordinators to add somebody to the school"
            );
            return new Outcome<EmailAddress>.Done(email);
        });

    /// <summary>Those who are to be added, the oldest first.</summary>
    public Outcome<IReadOnlyList<WaitingPerson>> Waiting(Viewer viewer) =>
        gate.Read<IReadOnlyList<WaitingPerson>>(Operation.SeePeople, viewer, at =>
        {
            var waiting = at.Stores.Requests.OfPeople.Waiting();
            var names = at.Stores.People.NamesOf([.. waiting.Select(one => one.MadeBy).Distinct()]);
            return new Outcome<IReadOnlyList<WaitingPerson>>.Done([
                .. waiting
                    .Select(one => new WaitingPerson(
                        one,
                        names.GetValueOrDefault(one.MadeBy, "Somebody"),
                        at.Stores.Calendars.Get(one.Calendar)
                    ))
                    .Where(one => one.Calendar.IsInUse),
            ]);
        });

    /// <summary>Adds somebody who was asked for, invites them, and gives them what was asked for.</summary>
    /// <returns>Their name.</returns>
    public Outcome<string> Add(Viewer viewer, long id, string? name, SchoolRole role) =>
        gate.Write<string>(Operation.AddPeople, viewer, at =>
        {
            if (at.Stores.Requests.OfPeople.Waiting(id) is not { } request)
                return new Outcome<string>.NotFound();
            var entry = new FormReader();
            var (called, _) = PersonFields.Read(entry, name, request.Email.Value, null, "");
            if (role is not (SchoolRole.Student or SchoolRole.Family or SchoolRole.Guest or SchoolRole.Teacher))
                entry.Wrong("Role", "Choose what they are.");
            if (!entry.IsGood)
                return new Outcome<string>.Refused(entry.Problems);
            if (at.Stores.People.Addressed(request.Email) is not null)
                return Outcome.Because<string>(
                    "Name",
                    $"Somebody with the address {request.Email} is here by now. Say no to this one."
                );
            // Who asked may not be able to give it any more.
            var keeper = AccessRules.LevelOf(
                at.Stores.People.ViewerOf(request.MadeBy),
                at.Stores.Calendars.GrantsOf(request.Calendar)
            );
            if (!AccessRules.May(Permission.ChangeCalendar, keeper))
                return Outcome.Because<string>(
                    "Name",
                    "Who asked for it does not manage that calendar any more. Say no to this one."
                );
            var person = at.Stores.People.Add(called, request.Email, role, null, Secrets.NewStamp(), at.Now);
            at.Stores.Requests.OfPeople.Remove(id);
            at.Stores.Calendars.Set(
                new Grant(request.Calendar, new Grantee.OnePerson(person), request.Level) { Until = request.Until },
                request.MadeBy
            );
            at.Stores.Calendars.Touch(request.Calendar, at.Now);
            Invitations.Write(secrets, at.Stores, person, InvitationPurpose.Join, at.Person, at.Now, Invitations.Lasts);
            at.Note(HistorySubject.Person, person.Value, $"added {called}, and invited them");
            at.Stores.History.Add(
                at.Now,
                at.Person,
                request.Calendar,
                HistorySubject.Calendar,
                request.Calendar.Value,
                at.Operation.Name,
                $"gave {called} the level {AccessPhrases.NameOf(request.Level)}, as was asked",
                null,
                null,
                named: [person]
            );
            return new Outcome<string>.Done(called);
        });

    /// <summary>Says no to a request.</summary>
    /// <returns>The address that was asked for.</returns>
    public Outcome<EmailAddress> Decline(Viewer viewer, long id) =>
        gate.Write<EmailAddress>(Operation.AddPeople, viewer, at =>
        {
            if (at.Stores.Requests.OfPeople.Waiting(id) is not { } request || !at.Stores.Requests.OfPeople.Remove(id))
                return new Outcome<EmailAddress>.NotFound();
            at.Stores.History.Add(
                at.Now,
                at.Person,
                request.Calendar,
                HistorySubject.Calendar,
                request.Calendar.Value,
                at.Operation.Name,
                "did not add somebody who was asked for",
                null,
                null
            );
            return new Outcome<EmailAddress>.Done(request.Email);
        });
}
