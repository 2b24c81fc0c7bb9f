using System.Collections.Immutable;
using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.Publishing;
using JollyAlmanac.Core.Terms;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Publishing;

/// <summary>The agenda panel of an embed.</summary>
/// <param name="Outlet">The embed.</param>
/// <param name="Calendar">The calendar.</param>
/// <param name="School">The school.</param>
/// <param name="Now">The moment it shows.</param>
/// <param name="Coming">The sessions that are not over, in order, a few weeks of them.</param>
public sealed record EmbedPanel(Outlet Outlet, Calendar Calendar, School School, Instant Now, ImmutableArray<ShownSession> Coming);

/// <summary>Reads an embed for whoever has its token.</summary>
public sealed class ReadEmbed(AlmanacDatabase database, IClock clock)
{
    private const int Most = 12;

    /// <summary>
    /// How all that the panel of a token shows stands: the same text means the same panel at the same moment. Null where nothing stands
    /// there.
    /// </summary>
    public string? StandingOf(string token)
    {
        if (token.Length != Secrets.TokenLength) return null;
        var hash = Secrets.HashOf(token);
        return known.Of(Convert.ToBase64String(hash), stores =>
            stores.Outlets.StandingOf(OutletKind.Embed, hash) is { } at ? $"{at.Id} {at.Standing} {at.School}" : null);
    }

    private readonly StandingOnce known = new(database);

    /// <summary>The panel; null for a token that is unknown, revoked or renewed.</summary>
    public EmbedPanel? Do(string token)
    {
        if (token.Length != Secrets.TokenLength) return null;
        var hash = Secrets.HashOf(token);
        var now = clock.GetCurrentInstant();
        return database.Read(stores =>
        {
            if (stores.Outlets.Find(OutletKind.Embed, hash) is not { } outlet || stores.School.Find() is not { } school) return null;
            var calendar = stores.Calendars.Get(outlet.Calendar);
            if (calendar.DeletedAt is not null) return null;
            if (!calendar.IsInUse) return new EmbedPanel(outlet, calendar, school, now, []);
            var facts = CalendarFacts.Read(stores, outlet.Calendar);
            var show = facts.For(outlet.Level, outlet.Choices, null);
            var coming = facts.PlansFor(school.Time, outlet.Level, null).SelectMany(plan => plan.Sessions)
                .Where(session => session.IsTold && session.EndsAt > now)
                .OrderBy(session => session.StartsAt).Take(Most).Select(show).OfType<ShownSession>();
            return new EmbedPanel(outlet, calendar, school, now, [.. coming]);
        });
    }
}
