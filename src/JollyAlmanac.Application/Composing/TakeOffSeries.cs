using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Series;
using JollyAlmanac.Storage;
using NodaTime;

namespace JollyAlmanac.Application.Composing;

/// <summary>Takes a series off its calendar, and brings it back.</summary>
public sealed class TakeOffSeries(AlmanacDatabase database, IClock clock)
{
    /// <summary>Takes it off; it can be brought back, with its link and materials.</summary>
    public Outcome<Series> Do(Viewer viewer, string slug, SeriesId id, int expectedVersion) => Set(viewer, slug, id, expectedVersion, takenOff: true);

    /// <summary>Brings it back.</summary>
    public Outcome<Series> Undo(Viewer viewer, string slug, SeriesId id, int expectedVersion) => Set(viewer, slug, id, expectedVersion, takenOff: false);

    private Outcome<Series> Set(Viewer viewer, string slug, SeriesId id, int expectedVersion, bool takenOff) => database.Write<Outcome<Series>>(stores =>
    {
        if (Setting.Find(stores, viewer, slug) is not { } setting || (stores.Series.Find(id, alsoTakenOff: true) ?? stores.Series.FindBare(id)) is not { } series || series.Calendar != setting.Calendar.Id)
            return new Outcome<Series>.NotFound();
        if (viewer.Person is not { } person || !setting.May(Deed.DeleteSeries, own: series.MadeBy == person)) return new Outcome<Series>.NotAllowed();
        var now = clock.GetCurrentInstant();
        if (!stores.Series.SetTakenOff(id, takenOff, expectedVersion, now))
            return new Outcome<Series>.Stale(stores.History.Newest(HistorySubject.Series, setting.Calendar.Id, id.Value));
        // A feed says of what carries it on what it follows; that changes, too.
        stores.Series.TouchFollowers(id, now);
        stores.Calendars.Touch(setting.Calendar.Id, now);
        stores.History.Add(now, person, setting.Calendar.Id, HistorySubject.Series, id.Value, takenOff ? "TakeOffSeries" : "BringBackSeries",
            takenOff ? $"took {series.Title} off" : $"brought {series.Title} back",
            SeriesState.Write([SeriesState.Of(series, !takenOff, stores.Materials.Of(setting.Calendar.Id))]),
            SeriesState.Write([SeriesState.Of(series with { Version = expectedVersion + 1 }, takenOff, stores.Materials.Of(setting.Calendar.Id))]));
        return new Outcome<Series>.Done(series with { Version = expectedVersion + 1 });
    }, outcome => outcome.IsDone);
}
