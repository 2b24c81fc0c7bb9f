using JollyAlmanac.Core.Calendars;
using JollyAlmanac.Core.People;
using NodaTime;

namespace JollyAlmanac.Core.Materials;

/// <summary>A file on its way in, or in and not yet attached.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Key">What its sender knows it by; random.</param>
/// <param name="Person">Who sends it.</param>
/// <param name="Calendar">The calendar it is for.</param>
/// <param name="Name">The name to save it under.</param>
/// <param name="Size">In bytes.</param>
/// <param name="File">The file, once all of it came and it was taken.</param>
public sealed record UploadedFile(
    long Id,
    UploadKey Key,
    PersonId Person,
    CalendarId Calendar,
    string Name,
    long Size,
    MaterialContent.StoredFile? File
);

/// <summary>What a material was before it was replaced.</summary>
/// <param name="Number">Which of its contents it was, from 1.</param>
/// <param name="Content">The file or the link.</param>
/// <param name="Who">Who replaced it.</param>
/// <param name="At">When.</param>
public sealed record Edition(int Number, MaterialContent Content, string Who, Instant At);
