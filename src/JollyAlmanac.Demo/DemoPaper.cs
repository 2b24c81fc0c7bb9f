using System.Globalization;
using System.Text;

namespace JollyAlmanac.Demo;

/// <summary>Makes a one-page PDF of a few lines, so that the demo's handouts are files that open.</summary>
internal static class DemoPaper
{
    /// <summary>The bytes of the page; ASCII only.</summary>
    public static byte[] Of(string title, params string[] lines)
    {
        var page = new StringBuilder("BT /F1 24 Tf 72 740 Td (")
            .Append(Escape(title))
            .Append(") Tj /F1 13 Tf 0 -20 Td ");
        foreach (var line in lines)
            page.Append("0 -22 Td (").Append(Escape(line)).Append(") Tj ");
        page.Append("ET");
        return Document(
            "<</Type/Catalog/Pages 2 0 R>>",
            "<</Type/Pages/Kids[3 0 R]/Count 1>>",
            "<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Resources<</Font<</F1 5 0 R>>>>/Contents 4 0 R>>",
            $"<</Length {page.Length}>>stream\n{page}\nendstream",
            "<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>"
        );
    }

    /// <summary>A PDF of these objects, the first its catalogue, with the table of where they are (ISO 32000-2, 7.5).</summary>
    /// <param name="parts">The objects, a byte for each letter (ISO 8859-1).</param>
    internal static byte[] Document(params string[] parts)
    {
        var document = new StringBuilder("%PDF-1.4\n");
        var offsets = new List<int>();
        for (var at = 0; at < parts.Length; at++)
        {
            offsets.Add(document.Length);
            document.Append(CultureInfo.InvariantCulture, $"{at + 1} 0 obj{parts[at]}endobj\n");
        }

        var table = document.Length;
        document.Append(CultureInfo.InvariantCulture, $"xref\n0 {parts.Length + 1}\n0000000000 65535 f \n");
        foreach (var offset in offsets)
            document.Append(CultureInfo.InvariantCulture, $"{offset:0000000000} 00000 n \n");
        document.Append(
            CultureInfo.InvariantCulture,
            $"trailer<</Size {parts.Length + 1}/Root 1 0 R>>\nstartxref\n{table}\n%%EOF\n"
        );
        return Encoding.Latin1.GetBytes(document.ToString());
    }

    /// <summary>A PNG (ISO/IEC 15948) of a day's tide: a curve, with low water marked.</summary>
    public static byte[] TideChart()
    {
        const int width = 720,
            height = 300;
        var dots = new byte[(width * 3 + 1) * height];
        for (var y = 0; y < height; y++)
        {
            for (var x = 0; x < width; x++)
            {
                var water = height * (0.5 - 0.32 * Math.Cos((x / (double)width * 24 - 3.4) / 12.42 * 2 * Math.PI));
                var (red, green, blue) =
                    Math.Abs(y - water) < 2.5 ? (12, 60, 56)
                    : y > water ? (170, 208, 204)
                    : x % 30 == 0 ? (222, 230, 230)
                    : (247, 250, 250);
                var at = y * (width * 3 + 1) + 1 + x * 3;
                (dots[at], dots[at + 1], dots[at + 2]) = ((byte)red, (byte)green, (byte)blue);
            }
        }

        using var packed = new MemoryStream();
        using (
            var into = new System.IO.Compression.ZLibStream(
                packed,
                System.IO.Compression.CompressionLevel.SmallestSize,
                leaveOpen: true
            )
        )
            into.Write(dots);
        using var png = new MemoryStream();
        png.Write([0x89, 0x50, 0x4E, 0x47, 0x0D, 0x0A, 0x1A, 0x0A]);
        Chunk(png, "IHDR", [0, 0, width >> 8, width & 255, 0, 0, height >> 8, height & 255, 8, 2, 0, 0, 0]);
        Chunk(png, "IDAT", packed.ToArray());
        Chunk(png, "IEND", []);
        return png.ToArray();
    }

    private static void Chunk(MemoryStream png, string kind, byte[] data)
    {
        byte[] named = [.. Encoding.ASCII.GetBytes(kind), .. data];
        Span<byte> number = stackalloc byte[4];
        System.Buffers.Binary.BinaryPrimitives.WriteInt32BigEndian(number, data.Length);
        png.Write(number);
        png.Write(named);
        var check = uint.MaxValue;
        foreach (var one in named)
        {
            check ^= one;
            for (var bit = 0; bit < 8; bit++)
                check = (check & 1) != 0 ? check >> 1 ^ 0xEDB88320 : check >> 1;
        }

        System.Buffers.Binary.BinaryPrimitives.WriteUInt32BigEndian(number, ~check);
        png.Write(number);
    }

    private static string Escape(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("(", "\\(", StringComparison.Ordinal)
            .Replace(")", "\\)", StringComparison.Ordinal);
}
