using QRCoder;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// A short address as a QR code, with error correction that stands a coffee stain (level M) and the quiet rim that ISO/IEC 18004 asks for.
/// </summary>
public static class QrPicture
{
    private const int Rim = 4;

    /// <summary>As SVG: one path of squares, a unit a module, which scales to any size.</summary>
    public static string Svg(Uri address)
    {
        using var code = QRCodeGenerator.GenerateQrCode(address.AbsoluteUri, QRCodeGenerator.ECCLevel.M);
        var modules = Modules(code);
        var path = new System.Text.StringBuilder();
        for (var y = 0; y < modules.Count; y++)
        for (var x = 0; x < modules.Count; x++)
            if (modules[y][x])
                path.Append(System.Globalization.CultureInfo.InvariantCulture, $"M{x + Rim} {y + Rim}h1v1h-1z");
        var side = modules.Count + 2 * Rim;
        return $"<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {side} {side}\" shape-rendering=\"crispEdges\"><rect width=\"{side}\" height=\"{side}\" fill=\"#fff\"/><path d=\"{path}\"/></svg>";
    }

    /// <summary>Its squares, row by row, without the rim.</summary>
    public static IReadOnlyList<System.Collections.BitArray> ModulesOf(Uri address)
    {
        using var code = QRCodeGenerator.GenerateQrCode(address.AbsoluteUri, QRCodeGenerator.ECCLevel.M);
        return Modules(code);
    }

    /// <summary>As PNG, ten dots a module.</summary>
    public static byte[] Png(Uri address)
    {
        using var code = QRCodeGenerator.GenerateQrCode(address.AbsoluteUri, QRCodeGenerator.ECCLevel.M);
        using var png = new PngByteQRCode(code);
        return png.GetGraphic(10);
    }

    // The library's matrix has the rim already.
    private static List<System.Collections.BitArray> Modules(QRCodeData code) =>
        [
            .. code
                .ModuleMatrix.Skip(Rim)
                .SkipLast(Rim)
                .Select(row => new System.Collections.BitArray([.. row.Cast<bool>().Skip(Rim).SkipLast(Rim)])),
        ];
}
