using System.Globalization;
using System.Text;

namespace JollyAlmanac.Web.Demo;

/// <summary>Makes a one-page PDF of a few lines, so that the demo's handouts are files that open.</summary>
internal static class DemoPaper
{
    /// <summary>The bytes of the page; ASCII only.</summary>
    public static byte[] Of(string title, params string[] lines)
    {
        var page = new StringBuilder("BT /F1 24 Tf 72 740 Td (").Append(Escape(title)).Append(") Tj /F1 13 Tf 0 -20 Td ");
        foreach (var line in lines) page.Append("0 -22 Td (").Append(Escape(line)).Append(") Tj ");
        page.Append("ET");
        string[] parts =
        [
            "<</Type/Catalog/Pages 2 0 R>>",
            "<</Type/Pages/Kids[3 0 R]/Count 1>>",
            "<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Resources<</Font<</F1 5 0 R>>>>/Contents 4 0 R>>",
            $"<</Length {page.Length}>>stream\n{page}\nendstream",
            "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>",
        ];
        var document = new StringBuilder("%PDF-1.4\n");
        var offsets = new List<int>();
        for (var at = 0; at < parts.Length; at++)
        {
            offsets.Add(document.Length);
            document.Append(CultureInfo.InvariantCulture, $"{at + 1} 0 obj{parts[at]}endobj\n");
        }

        var table = document.Length;
        document.Append(CultureInfo.InvariantCulture, $"xref\n0 {parts.Length + 1}\n0000000000 65535 f \n");
        foreach (var offset in offsets) document.Append(CultureInfo.InvariantCulture, $"{offset:0000000000} 00000 n \n");
        document.Append(CultureInfo.InvariantCulture, $"trailer<</Size {parts.Length + 1}/Root 1 0 R>>\nstartxref\n{table}\n%%EOF\n");
        return Encoding.ASCII.GetBytes(document.ToString());
    }

    private static string Escape(string text) => text.Replace("\\", "\\\\", StringComparison.Ordinal)
        .Replace("(", "\\(", StringComparison.Ordinal).Replace(")", "\\)", StringComparison.Ordinal);
}
