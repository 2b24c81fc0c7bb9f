using JollyAlmanac.Core.Access;
using JollyAlmanac.Core.Materials;

namespace JollyAlmanac.Application.Materials;

/// <summary>
/// Marks what is to be done as done. The mark is for its person alone: no page of anybody else reads it, whoever looks as them neither, and
/// it leaves no line in the history, which others read.
/// </summary>
public sealed class MarkDone(Gate gate)
{
    /// <summary>Marks a material, or takes the mark back.</summary>
    /// <param name="viewer">Who.</param>
    /// <param name="key">The material.</param>
    /// <param name="done">It is done.</param>
    /// <returns>The material's title; not found where it is none that they may see, or nothing is to be done.</returns>
    public Outcome<string> Do(Viewer viewer, MaterialKey key, bool done) =>
        gate.Write<string>(Operation.MarkDone, viewer, at =>
        {
            var stores = at.Stores;
            if (
                stores.Materials.Find(key) is not { Due: not null } material
                || CalendarContext.Find(stores, viewer, stores.Calendars.Get(material.Calendar).Slug) is not { } context
                || CalendarFacts
                    .Read(stores, material.Calendar)
                    .Show(at.School.Time, at.Now, material, context.Level, ShowChoices.SignedIn, viewer)
                    is null
            )
                return new Outcome<string>.NotFound();
            stores.Materials.MarkDone(at.Person, material.Id, done, at.Now);
            return new Outcome<string>.Done(material.Title);
        });
}
