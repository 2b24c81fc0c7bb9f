using NodaTime;

namespace JollyAlmanac.Core.Terms;

/// <summary>Why nobody has class on a day.</summary>
public enum NoClassKind
{
    /// <summary>A public or school holiday.</summary>
    Holiday,

    /// <summary>Staff work without students.</summary>
    StaffDay,

    /// <summary>Examinations instead of classes.</summary>
    Examination,

    /// <summary>Storm, ferry or snow.</summary>
    Weather,
}

/// <summary>
/// A day, or a range of days, on which no class meets: "Teachers' conference, 22 to 23 Oct". Both ends belong to it.
/// </summary>
public sealed record NoClassDay(LocalDate First, LocalDate Last, string Name, NoClassKind Kind)
{
    /// <summary>Each day of the range, in order.</summary>
    public IEnumerable<LocalDate> Days
    {
        get
        {
            for (var day = First; day <= Last; day = day.PlusDays(1))
                yield return day;
        }
    }
}
