using System.Collections.Immutable;
using NodaTime;

namespace JollyAlmanac.Core.Terms;

/// <summary>
/// Named days that rotate over class days only: with six names from 8 Sep, a holiday on Day 2's date makes the next
/// class day Day 2. A no-class day does not use one up.
/// </summary>
/// <param name="Names">The names in turn, at least one.</param>
/// <param name="Start">The class day that has the first name.</param>
public sealed record DayCycle(ImmutableArray<string> Names, LocalDate Start);
