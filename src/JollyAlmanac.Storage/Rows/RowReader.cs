using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Data;
using Microsoft.Data.Sqlite;

namespace JollyAlmanac.Storage.Rows;

/// <summary>Reads rows one by one, and gathers those that cannot be read.</summary>
internal sealed class RowReader
{
    private const int MostTold = 200;
    private readonly List<Unreadable> found = [];
    private List<Unreadable>? gathered;

    /// <summary>What could not be read so far, each once.</summary>
    public IReadOnlyList<Unreadable> Found => found;

    /// <summary>The rows that can be read.</summary>
    public List<T> All<TRow, T>(
        IEnumerable<TRow> rows,
        Func<TRow, T> read,
        Func<TRow, (UnreadableKind Kind, long Id, CalendarId? Calendar, string Name)> what
    )
    {
        var values = new List<T>();
        foreach (var row in rows)
            if (TryRead(() => read(row), out var value, () => what(row)))
                values.Add(value);
        return values;
    }

    /// <summary>A value, or what stands in for it where it cannot be read.</summary>
    public T Or<T>(
        Func<T> read,
        T otherwise,
        Func<(UnreadableKind Kind, long Id, CalendarId? Calendar, string Name)> what
    ) => TryRead(read, out var value, what) ? value : otherwise;

    /// <summary>Takes in what could not be read when something was read before.</summary>
    public void Tell(IEnumerable<Unreadable> unreadable)
    {
        foreach (var one in unreadable)
        {
            gathered?.Add(one);
            if (found.Count < MostTold && !found.Contains(one))
                found.Add(one);
        }
    }

    /// <summary>What a reading makes, with what of it could not be read.</summary>
    public (T Value, IReadOnlyList<Unreadable> Unreadable) Gather<T>(Func<T> make)
    {
        var outer = gathered;
        var own = gathered = [];
        try
        {
            return (make(), own);
        }
        finally
        {
            gathered = outer;
            outer?.AddRange(own);
        }
    }

    private bool TryRead<T>(
        Func<T> read,
        out T value,
        Func<(UnreadableKind Kind, long Id, CalendarId? Calendar, string Name)> what
    )
    {
        try
        {
            value = read();
            return true;
        }
        // Whatever reading a row throws is about that row; the database itself has answered by then.
        catch (Exception refusal) when (refusal is not (SqliteException or OutOfMemoryException))
        {
            var (kind, id, calendar, name) = what();
            var reason = refusal.Message.ReplaceLineEndings(" ");
            var told = new Unreadable(kind, id, calendar, name, reason.Length > 160 ? reason[..160] + "…" : reason);
            Tell([told]);
            value = default!;
            return false;
        }
    }
}
