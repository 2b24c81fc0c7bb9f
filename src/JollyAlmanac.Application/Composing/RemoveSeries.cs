using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.History;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage.Calendars;

namespace JollyAlmanac.Application.Composing;

/// <summary>Takes a series off its calendar, and brings it back.</summary>
public sealed class RemoveSeries(Gate gate)
{
    /// <summary>Takes it off; it can be brought back, with its link and materials.</summary>
    public Outcome<Series> Do(Viewer viewer, Slug slug, SeriesId id, int expectedVersion) =>
        Set(Operation.RemoveSeries, viewer, slug, id, expectedVersion, takenOff: true);

    /// <summary>Brings it back.</summary>
    public Outcome<Series> Undo(Viewer viewer, Slug slug, SeriesId id, int expectedVersion) =>
        Set(Operation.BringBackSeries, viewer, slug, id, expectedVersion, takenOff: false);

    private Outcome<Series> Set(
        Operation operation,
        Viewer viewer,
        Slug slug,
        SeriesId id,
        int expectedVersion,
        bool takenOff
    ) => gate.Write<Series>(operation, viewer, slug, id, expectedVersion, at =>
        {
            var (stores, calendar, series) = (at.Stores, at.Calendar.Id, at.Series);
            if (!stores.Series.SetTakenOff(id, takenOff, expectedVersion, at.Now))
                return at.Stale<Series>(HistorySubject.Series, id.Value);
            // A feed says of what carries it on what it follows; that changes, too.
            stores.Series.TouchFollowers(id, at.Now);
            stores.Calendars.Touch(calendar, at.Now);
            var after = series with { Version = expectedVersion + 1 };
            at.Note(
                HistorySubject.Series,
                id.Value,
                takenOff ? $"took {series.Title} off" : $"brought {series.Title} back",
                SeriesState.Write([SeriesState.Of(series, !takenOff, stores.Materials.Of(calendar))]),
                SeriesState.Write([SeriesState.Of(after, takenOff, stores.Materials.Of(calendar))])
            );
            return new Outcome<Series>.Done(after);
        });
}
