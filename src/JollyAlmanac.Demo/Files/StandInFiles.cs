using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using JollyAlmanac.Application.Importing;

namespace JollyAlmanac.Demo.Files;

/// <summary>
/// A stand-in for the world's calendar files: two of an invented district. It answers as a host would, with a mark for each state, and
/// says that a file is as it was where that mark comes back.
/// </summary>
public sealed class StandInFiles : IFileSource
{
    /// <summary>The district's days without class.</summary>
    public const string Holidays = "https://district.skerry.example/no-class-days.ics";

    /// <summary>The harbour's open evenings.</summary>
    public const string Evenings = "https://harbour.skerry.example/evenings.ics";

    private static readonly Dictionary<string, string> Files = new()
    {
        [Holidays] = Document(
            "Days without class",
            [
                Days("thanksgiving", "Thanksgiving", "20261012", "20261013"),
                Days("remembrance", "Remembrance Day", "20261111", "20261112"),
                Days("storm", "Storm day kept in hand", "20270219", "20270220"),
                Days("march", "March break", "20270315", "20270320"),
                Days("friday", "Good Friday", "20270326", "20270327"),
            ]
        ),
        [Evenings] = Document(
            "Harbour evenings",
            [
                "UID:evenings@harbour.skerry.example\r\nSUMMARY:Harbour evening\r\nLOCATION:Boat house\r\nDTSTART;TZID=America/Halifax:20261022T190000\r\n"
                    + "DTEND;TZID=America/Halifax:20261022T203000\r\nRRULE:FREQ=MONTHLY;BYDAY=4TH;COUNT=6\r\n",
            ]
        ),
    };

    /// <inheritdoc />
    public Task<FetchedFile> Fetch(Uri address, FetchedFile? before, CancellationToken cancellation)
    {
        if (!Files.TryGetValue(address.AbsoluteUri, out var text))
            throw new FileSourceException(
                $"The host {address.IdnHost} has no such file. This demo asks no network; it knows {string.Join(" and ", Files.Keys)}."
            );
        var bytes = Encoding.UTF8.GetBytes(text);
        var mark =
            $"\"{Convert.ToHexString(SHA256.HashData(bytes).AsSpan(0, 8)).ToLower(CultureInfo.InvariantCulture)}\"";
        return Task.FromResult(
            before?.ETag == mark ? before with { Content = null } : new FetchedFile(bytes, mark, "")
        );
    }

    private static string Document(string name, IEnumerable<string> events) =>
        $"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//Skerry Isles District//Days//EN\r\nNAME:{name}\r\n"
        + string.Concat(events.Select(one => $"BEGIN:VEVENT\r\nDTSTAMP:20260801T120000Z\r\n{one}END:VEVENT\r\n"))
        + "END:VCALENDAR\r\n";

    private static string Days(string uid, string name, string first, string after) =>
        $"UID:{uid}@district.skerry.example\r\nSUMMARY:{name}\r\nDTSTART;VALUE=DATE:{first}\r\nDTEND;VALUE=DATE:{after}\r\n";
}
