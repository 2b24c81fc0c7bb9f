using JollyAlmanac.Application.SignIn;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.People;

namespace JollyAlmanac.Application.Sharing;

/// <summary>
/// Looks as somebody else: the whole almanac as that one sees it, and nothing can be done. Coordinators look as anybody; managers of a
/// calendar as those who have access to it, and see of it what they may see themselves. It is written in the history.
/// </summary>
public sealed class PreviewAs(Gate gate, AlmanacDatabase database)
{
    /// <summary>Begins to look.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="token">Their sign-in: only in it they look as somebody else.</param>
    /// <param name="who">"person 5", "group 4" or "stranger".</param>
    /// <param name="slug">The calendar they come from; null for a coordinator who comes from none.</param>
    public Outcome<PreviewIdentity> Begin(Viewer viewer, string token, string who, Slug? slug) =>
        slug is null
            ? gate.Write<PreviewIdentity>(Operation.PreviewAsAnybody, viewer, at =>
                Begin(at, token, who, null, HistorySubject.School, 0, () => true)
            )
            : gate.Write<PreviewIdentity>(Operation.PreviewAs, viewer, slug.Value, at =>
                Begin(at, token, who, slug, HistorySubject.Calendar, at.Calendar.Id.Value, () =>
                    viewer.Role == SchoolRole.Coordinator || IsOf(at, who)
                )
            );

    /// <summary>Ends looking as somebody else.</summary>
    /// <param name="token">The sign-in.</param>
    public void End(string token) =>
        database.Write(stores => stores.SignIns.SetLook(Secrets.HashOf(token), null), kept => kept);

    private static Outcome<PreviewIdentity> Begin(
        AtSchool at,
        string token,
        string who,
        Slug? slug,
        HistorySubject subject,
        long id,
        Func<bool> isTheirs
    )
    {
        var looks = new PreviewRow(who, slug);
        if (who.Length > 40 || PreviewIdentity.Read(at.Stores, at.Viewer, looks) is not var (_, looking))
            return new Outcome<PreviewIdentity>.NotFound();
        // Students and families who manage a calendar look at it as a stranger, and as nobody whom they know.
        if (who != PreviewIdentity.Stranger && !AccessRules.MayAtSchool(Permission.FindPeople, at.Viewer.Role))
            return new Outcome<PreviewIdentity>.NotAllowed();
        if (!isTheirs() || !at.Stores.SignIns.SetLook(Secrets.HashOf(token), looks))
            return new Outcome<PreviewIdentity>.NotAllowed();
        at.Note(
            subject,
            id,
            $"looked as {looking.Name}",
            named: Share.GranteeOf(who) is Grantee.OnePerson one ? [one.Person] : []
        );
        return new Outcome<PreviewIdentity>.Done(looking);
    }

    // Somebody whom the calendar's grants reach, or a stranger.
    private static bool IsOf(AtCalendar at, string who) =>
        who == PreviewIdentity.Stranger
        || (
            PreviewIdentity.Read(at.Stores, at.Viewer, new PreviewRow(who, null)) is var (looked, _)
            && AccessRules.LevelOf(looked with { LookedAtBy = null }, at.Context.Grants) > AccessLevel.None
        );
}
