using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Mail;
using JollyAlmanac.Core.Terms;

namespace JollyAlmanac.Application.Mail;

/// <summary>The letters that have not gone, for coordinators.</summary>
/// <param name="School">The school.</param>
/// <param name="Waiting">How many wait.</param>
/// <param name="Troubled">Those whose last try failed, or that were given up; each with whom it is for.</param>
public sealed record OutboxView(School School, int Waiting, IReadOnlyList<(QueuedLetter Letter, string To)> Troubled);

/// <summary>Looks after the letters that do not go.</summary>
public sealed class Outbox(Gate gate)
{
    /// <summary>The letters that have not gone.</summary>
    public Outcome<OutboxView> View(Viewer viewer) => gate.Read<OutboxView>(Operation.SeeMail, viewer, at =>
        {
            var troubled = at.Stores.Letters.Troubled(100);
            var names = at.Stores.People.NamesOf([.. troubled.Select(letter => letter.To).Distinct()]);
            return new Outcome<OutboxView>.Done(
                new OutboxView(
                    at.School,
                    at.Stores.Letters.Waiting(),
                    [.. troubled.Select(letter => (letter, names.GetValueOrDefault(letter.To, "somebody")))]
                )
            );
        });

    /// <summary>Tries a letter that was given up once more.</summary>
    public Outcome<bool> SendAgain(Viewer viewer, long id) => gate.Write<bool>(Operation.SendAgain, viewer, at =>
        {
            if (!at.Stores.Letters.TryAgain(id, at.Now))
                return new Outcome<bool>.NotFound();
            at.Note(HistorySubject.School, 0, "had an e-mail sent again that was given up");
            return new Outcome<bool>.Done(true);
        });
}
