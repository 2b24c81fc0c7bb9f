using System.Text.Json;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.JoinLinks;
using JollyAlmanac.Core.People;
using JollyAlmanac.Storage;
using JollyAlmanac.Storage.JoinLinks;
using NodaTime;

namespace JollyAlmanac.Application.Joining;

/// <summary>Which links are to have which rule, as typed.</summary>
/// <param name="Codes">Their short addresses.</param>
public sealed record GiveRuleInput(IReadOnlyList<string>? Codes = null)
{
    /// <summary>When their doors are to be open.</summary>
    public EntryRuleInput Entry { get; init; } = new();
}

/// <summary>Gives several links one rule for their doors in one go, and takes that back.</summary>
public sealed class GiveRule(Gate gate, AlmanacDatabase database, IClock clock)
{
    /// <summary>The most links at once.</summary>
    public const int Most = 500;

    // What a line of the history keeps of a link, so that the rule can be taken back.
    private sealed record Given(string Before, string After);

    /// <summary>Gives them the rule: all of them, or none where one is not the viewer's to change.</summary>
    /// <returns>How many have it that had another.</returns>
    public Outcome<int> Do(Viewer viewer, GiveRuleInput input)
    {
        if (viewer.LookedAtBy is not null)
            return new Outcome<int>.NotAllowed();
        var entry = new FormReader();
        var rule = LinkReader.ReadRule(entry, input.Entry);
        var codes = (input.Codes ?? []).Distinct().ToList();
        if (codes.Count == 0)
            entry.Wrong("Codes", "Tick the links that are to have the rule.");
        if (codes.Count > Most)
            entry.Wrong("Codes", $"These are {codes.Count} links; {Most} can be changed at once.");
        if (rule is null || !entry.IsGood)
            return new Outcome<int>.Refused(entry.Problems);
        // One moment for all of them, by which they are found together again.
        var now = clock.GetCurrentInstant();
        return database.Write<Outcome<int>>(
            stores =>
            {
                var changed = 0;
                foreach (var text in codes)
                {
                    if (!JoinCode.TryParse(text, null, out var code))
                        return new Outcome<int>.NotFound();
                    var entered = gate.Enter(stores, Operation.GiveRule, viewer, code);
                    if (entered is not Outcome<AtLink>.Done { Value: var let })
                        return entered.Then<int>(_ => new Outcome<int>.NotFound());
                    var at = let with { Now = now };
                    if (at.Link.Entry == rule && at.Link.CannotBeRead is null)
                        continue;
                    if (
                        !stores.JoinLinks.Change(
                            at.Link with
                            {
                                Entry = rule,
                                CannotBeRead = null,
                            },
                            at.Link.Version,
                            at.Now
                        )
                    )
                        return at.Stale<int>();
                    at.Note(
                        HistorySubject.JoinLink,
                        at.Link.Id.Value,
                        $"gave {at.Link.Name} the rule: {rule.InWords}",
                        JsonSerializer.Serialize(new Given(DoorText.Write(at.Link.Entry), DoorText.Write(rule)))
                    );
                    changed++;
                }

                return new Outcome<int>.Done(changed);
            },
            outcome => outcome.IsDone
        );
    }

    /// <summary>How many links have a rule that the viewer gave last, and may take back; 0 for none.</summary>
    public int ToUndo(Viewer viewer) =>
        viewer.Person is { } person ? database.Read(stores => Last(stores, person).Count) : 0;

    /// <summary>Takes back the rule that the viewer gave last, of each link that has it still.</summary>
    /// <returns>How many have their own again.</returns>
    public Outcome<int> Undo(Viewer viewer) =>
        viewer.Person is not { } person || viewer.LookedAtBy is not null
            ? new Outcome<int>.NotAllowed()
            : database.Write<Outcome<int>>(
                stores =>
                {
                    var last = Last(stores, person);
                    if (last.Count == 0)
                        return Outcome.Because<int>("", "There is no rule of yours to take back.");
                    var back = 0;
                    foreach (var (id, given) in last)
                    {
                        var entered = gate.Enter(stores, Operation.UndoRule, viewer, stores.JoinLinks.Get(id).Code);
                        if (entered is not Outcome<AtLink>.Done { Value: var at })
                            return entered.Then<int>(_ => new Outcome<int>.NotFound());
                        var before = DoorText.ReadEntry(given.Before);
                        // What somebody changed since stays as they have it.
                        var isSame = DoorText.Write(at.Link.Entry) == given.After;
                        if (
                            isSame && !stores.JoinLinks.Change(at.Link with { Entry = before }, at.Link.Version, at.Now)
                        )
                            return at.Stale<int>();
                        at.Note(
                            isSame
                                ? $"took the rule of {at.Link.Name} back: {before.InWords}"
                                : $"left the rule of {at.Link.Name} as it was changed since"
                        );
                        back += isSame ? 1 : 0;
                    }

                    return new Outcome<int>.Done(back);
                },
                outcome => outcome.IsDone
            );

    private static List<(JoinLinkId Link, Given Given)> Last(Stores stores, PersonId person) =>
        stores.History.LastOf(Operation.GiveRule.Name, person) is not var (line, _)
        || stores.History.IsAfter(Operation.UndoRule.Name, person, line.Id)
            ? []
            :
            [
                .. stores
                    .History.BeforeOf(Operation.GiveRule.Name, person, line.At)
                    .Select(one => (new JoinLinkId(one.Subject), JsonSerializer.Deserialize<Given>(one.Before)!)),
            ];
}
