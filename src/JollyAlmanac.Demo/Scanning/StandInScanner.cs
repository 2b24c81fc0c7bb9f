using System.Text;
using JollyAlmanac.Application.Materials;

namespace JollyAlmanac.Demo.Scanning;

/// <summary>
/// A scanner that knows one thing: the string that all scanners report in order to be tried out (the EICAR test file, www.eicar.org,
/// which is harmless). A real one asks the scanner that a school runs.
/// </summary>
public sealed class StandInScanner : IFileScanner
{
    // In two halves, so that a scanner does not report this program.
    private static readonly byte[] Test = Encoding.ASCII.GetBytes(
        @"X5O!P%@AP[4\PZX54(P^)7CC)7}$" + "EICAR-STANDARD-ANTIVIRUS-TEST-FILE!$H+H*"
    );

    /// <inheritdoc />
    public string? Find(Stream bytes)
    {
        var buffer = new byte[64 * 1024 + Test.Length];
        var kept = 0;
        while (bytes.Read(buffer, kept, buffer.Length - kept) is > 0 and var read)
        {
            var filled = buffer.AsSpan(0, kept + read);
            if (filled.IndexOf(Test) >= 0)
                return "a scanner found the test for harmful files in it";
            kept = Math.Min(Test.Length - 1, filled.Length);
            filled[^kept..].CopyTo(buffer);
        }

        return null;
    }
}
