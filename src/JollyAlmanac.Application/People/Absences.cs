using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Application.People;

/// <summary>The form that notes an absence, as typed.</summary>
/// <param name="First">The first day, as ISO 8601 has it.</param>
/// <param name="Last">The last day; empty for the first one alone.</param>
/// <param name="Reason">Why; may be empty.</param>
public sealed record AbsenceInput(string? First, string? Last, string? Reason);

/// <summary>Notes who of the staff is away. For coordinators, who alone read why.</summary>
public sealed class Absences(Gate gate)
{
    private const int MostOfOne = 50;

    /// <summary>Notes that somebody is away for some days.</summary>
    /// <returns>The absence; refused where its days cannot be, or cross those of another one.</returns>
    public Outcome<Absence> Add(Viewer viewer, PersonId id, AbsenceInput input) =>
        gate.Write<Absence>(Operation.AddAbsence, viewer, at =>
        {
            if (
                at.Stores.People.Get(id)
                is not { EndedAt: null, Role: SchoolRole.Teacher or SchoolRole.Coordinator } person
            )
                return new Outcome<Absence>.NotFound();
            var entry = new FormReader();
            var first = entry.Day("First", input.First, "The first day");
            var last = string.IsNullOrWhiteSpace(input.Last) ? first : entry.Day("Last", input.Last, "The last day");
            var reason = entry.Line("Reason", input.Reason, "The reason", 200, needed: false);
            if (first is { } from && last is { } to)
            {
                if (to < from)
                    entry.Wrong(
                        "Last",
                        "The last day is before the first. Choose a later one, or leave it empty for one day."
                    );
                else if (to < at.Today)
                    entry.Wrong("Last", $"{Wording.WithYear(to)} is over. Choose today or a later day.");
                else if (Period.DaysBetween(from, to) >= Absence.Longest)
                    entry.Wrong(
                        "Last",
                        $"An absence lasts {Absence.Longest} days at most. Choose an earlier last day."
                    );
                var others = at.Stores.Absences.Of(id, at.Today);
                if (entry.IsGood && others.FirstOrDefault(one => one.First <= to && from <= one.Last) is { } other)
                    entry.Wrong(
                        "First",
                        $"{person.Name} is away {Wording.Days(other.First, other.Last)} already. Remove that first, or choose other days."
                    );
                if (others.Count >= MostOfOne)
                    entry.Wrong("First", $"There are {MostOfOne} absences already. Remove one first.");
            }

            if (!entry.IsGood)
                return new Outcome<Absence>.Refused(entry.Problems);
            var added = at.Stores.Absences.Add(id, first!.Value, last!.Value, reason, at.Person, at.Now);
            at.Note(
                HistorySubject.Person,
                id.Value,
                $"noted that {person.Name} is away {Wording.Days(first.Value, last.Value)}",
                named: [id]
            );
            return new Outcome<Absence>.Done(new Absence(added, id, first.Value, last.Value, reason));
        });

    /// <summary>Removes an absence of a person.</summary>
    public Outcome<Absence> Remove(Viewer viewer, PersonId id, long absence) =>
        gate.Write<Absence>(Operation.RemoveAbsence, viewer, at =>
        {
            if (
                at.Stores.People.Get(id) is not { } person
                || at.Stores.Absences.Of(id, LocalDate.MinIsoValue).FirstOrDefault(one => one.Id == absence)
                    is not { } known
                || !at.Stores.Absences.Remove(id, absence)
            )
                return new Outcome<Absence>.NotFound();
            at.Note(
                HistorySubject.Person,
                id.Value,
                $"noted that {person.Name} is not away {Wording.Days(known.First, known.Last)}",
                named: [id]
            );
            return new Outcome<Absence>.Done(known);
        });
}
