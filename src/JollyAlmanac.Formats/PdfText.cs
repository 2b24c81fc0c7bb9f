using System.Text;
using UglyToad.PdfPig;
using UglyToad.PdfPig.Content;
using UglyToad.PdfPig.Core;

namespace JollyAlmanac.Formats;

/// <summary>The words of a PDF (ISO 32000-2), in the order its pages have them. A file may be made to take all there is of time and
/// memory: call this only where both have an end.</summary>
public static class PdfText
{
    /// <summary>Reads them.</summary>
    /// <param name="file">The file; can be read from any place.</param>
    /// <param name="most">How many letters are enough.</param>
    /// <returns>The words, a space between them; empty where there are none, or the file cannot be read as a PDF, or wants a
    /// password.</returns>
    public static string Of(Stream file, int most)
    {
        var text = new StringBuilder();
        try
        {
            using var document = PdfDocument.Open(
                file,
                new ParsingOptions { UseLenientParsing = true, SkipMissingFonts = true }
            );
            foreach (var page in document.GetPages())
            {
                Append(text, page.GetWords());
                if (text.Length >= most)
                    break;
            }
        }
        // Whatever a damaged file leads the reader to: what was read till then is what it is found by.
        catch (Exception failure) when (failure is not OutOfMemoryException) { }

        foreach (var (one, several) in Joined)
            text.Replace(one, several);
        var words = text.ToString().Trim();
        return words.Length > most ? words[..most] : words;
    }

    // Letters that stand for several, as typesetting has them (Unicode, Alphabetic Presentation Forms): nobody types them.
    private static readonly (string One, string Several)[] Joined =
    [
        ("\uFB00", "ff"),
        ("\uFB01", "fi"),
        ("\uFB02", "fl"),
        ("\uFB03", "ffi"),
        ("\uFB04", "ffl"),
        ("\uFB05", "st"),
        ("\uFB06", "st"),
    ];

    private static void Append(StringBuilder text, IEnumerable<Word> words)
    {
        PdfRectangle? broken = null;
        foreach (var word in words)
        {
            // A word that was parted at the end of a line is one.
            var goesOn = broken is { } before && word.BoundingBox.Top <= before.Bottom && char.IsLower(word.Text[0]);
            if (goesOn)
                text.Length--;
            else if (text.Length > 0)
                text.Append(' ');
            text.Append(word.Text);
            broken = word.Text.Length > 1 && word.Text[^1] is '-' or '\u00AD' or '\u2010' ? word.BoundingBox : null;
        }
    }
}
