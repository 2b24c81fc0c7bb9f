namespace JollyAlmanac.Core;

/// <summary>
/// An id that is a text in addresses and in the database. Text from outside becomes one by <c>TryParse</c> alone, which the model
/// binder and the routing call; ASP.NET Core finds it by its signature.
/// </summary>
/// <typeparam name="T">The id itself.</typeparam>
public interface ITextId<T>
    where T : struct, ITextId<T>
{
    /// <summary>The text.</summary>
    string Value { get; }

    /// <summary>Reads an id.</summary>
    /// <param name="text">From outside; null is none.</param>
    /// <param name="provider">Not asked.</param>
    /// <param name="id">The id; its default where the text is none.</param>
    /// <returns>Whether the text has the form of one; whether there is such a thing is another question.</returns>
    static abstract bool TryParse(string? text, IFormatProvider? provider, out T id);
}
