using System.Globalization;

namespace JollyAlmanac.Application.Materials;

/// <summary>How large a file may be that comes with a form, in bytes; 25 MB unless set otherwise.</summary>
public sealed record UploadLimit(long Bytes)
{
    /// <summary>How large one may be that comes in parts, in bytes.</summary>
    public long InParts { get; init; } = Math.Max(Bytes, 500L * 1024 * 1024);

    /// <summary>How much the files of one calendar may have, in bytes.</summary>
    public long PerCalendar { get; init; } = 2L * 1024 * 1024 * 1024;

    /// <summary>How much all files may have, in bytes.</summary>
    public long InAll { get; init; } = 50L * 1024 * 1024 * 1024;

    /// <summary>"25 MB".</summary>
    public static string InWords(long bytes) =>
        bytes switch
        {
            >= 1024L * 1024 * 1024 => string.Create(
                CultureInfo.InvariantCulture,
                $"{bytes / (1024.0 * 1024 * 1024):0.##} GB"
            ),
            >= 1024 * 1024 => string.Create(CultureInfo.InvariantCulture, $"{bytes / (1024.0 * 1024):0.#} MB"),
            >= 1024 => $"{bytes / 1024} KB",
            _ => Wording.Count((int)bytes, "byte", "bytes"),
        };

    /// <summary>25 MB.</summary>
    public static UploadLimit Usual { get; } = new(25L * 1024 * 1024);

    /// <summary>How many files may come in one go.</summary>
    public const int MostFiles = 10;
}
