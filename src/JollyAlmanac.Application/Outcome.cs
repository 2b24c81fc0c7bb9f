using JollyAlmanac.Core.History;

namespace JollyAlmanac.Application;

/// <summary>One thing that is wrong with what somebody entered: where, and in plain words why and what to do.</summary>
/// <param name="Field">The name of the form field it stands beside; empty for the whole form.</param>
/// <param name="Message">For people.</param>
public sealed record Problem(string Field, string Message);

/// <summary>Says what came of an act.</summary>
public static class Outcome
{
    /// <summary>Refused for one reason.</summary>
    /// <param name="field">The form field it stands beside; empty for the whole form.</param>
    /// <param name="message">For people.</param>
    public static Outcome<T> Because<T>(string field, string message) =>
        new Outcome<T>.Refused([new Problem(field, message)]);
}

/// <summary>What came of an act. Expected refusals are values; exceptions are bugs.</summary>
/// <typeparam name="T">What the act gives when it is done.</typeparam>
public abstract record Outcome<T>
{
    private Outcome() { }

    /// <summary>Whether it was done; only then is anything kept.</summary>
    public bool IsDone => this is Done;

    /// <summary>The same outcome, with what is made of the value where it was done.</summary>
    public Outcome<TOther> Select<TOther>(Func<T, TOther> make) =>
        Then(value => (Outcome<TOther>)new Outcome<TOther>.Done(make(value)));

    /// <summary>The value where it was done; else the type's default, for who only asks whether there is something to show.</summary>
    public T? OrNone => this is Done done ? done.Value : default;

    /// <summary>What comes next where it was done; else the same refusal.</summary>
    public Outcome<TOther> Then<TOther>(Func<T, Outcome<TOther>> next) =>
        this switch
        {
            Done done => next(done.Value),
            Refused refused => new Outcome<TOther>.Refused(refused.Problems),
            NotAllowed => new Outcome<TOther>.NotAllowed(),
            Stale stale => new Outcome<TOther>.Stale(stale.By),
            _ => new Outcome<TOther>.NotFound(),
        };

    /// <summary>Done and kept.</summary>
    public sealed record Done(T Value) : Outcome<T>;

    /// <summary>What was entered cannot be; nothing is changed.</summary>
    public sealed record Refused(IReadOnlyList<Problem> Problems) : Outcome<T>;

    /// <summary>There is no such thing, or the person may not know of it.</summary>
    public sealed record NotFound : Outcome<T>;

    /// <summary>The person may see it, but not do this.</summary>
    public sealed record NotAllowed : Outcome<T>;

    /// <summary>Somebody else changed it since the person last read it; nothing is changed.</summary>
    /// <param name="By">Who and when, where the history tells.</param>
    public sealed record Stale(HistoryLine? By) : Outcome<T>;
}
