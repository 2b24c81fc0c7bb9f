using System.Runtime.InteropServices;

namespace JollyAlmanac.Web.Serving;

/// <summary>
/// Takes rights away from the thread that asks for it and from all that it starts, for good: Landlock of the Linux kernel (5.13 and later;
/// landlock(7), numbers from linux/landlock.h). Elsewhere it does nothing.
/// </summary>
public static partial class Landlock
{
    // The numbers are the same on all processor architectures that .NET runs on (asm-generic/unistd.h).
    private const long CreateRuleset = 444,
        AddRule = 445,
        RestrictSelf = 446;

    private const uint VersionAsked = 1;

    // Execute, read a file, read a directory.
    private const ulong Reading = 1 | 4 | 8;

    private const int NoNewPrivileges = 38,
        OpenPath = 0x200000,
        CloseOnExec = 0x80000;

    /// <summary>From now on this thread opens no file but beneath some directories, and those for reading alone, writes none, and
    /// neither binds nor connects over TCP, as far as the kernel knows how.</summary>
    /// <param name="readable">The directories; what is not there is left out.</param>
    /// <returns>Whether the kernel does so.</returns>
    public static bool Restrict(IEnumerable<string> readable)
    {
        if (!OperatingSystem.IsLinux())
            return false;
        var version = syscall(CreateRuleset, 0, 0, VersionAsked);
        if (version < 1)
            return false;
        // Version 1 knows 13 rights over files; 2 adds linking elsewhere, 3 cutting short, 5 device controls. Version 4 knows TCP.
        var files =
            (
                1UL
                << (
                    version switch
                    {
                        1 => 13,
                        2 => 14,
                        < 5 => 15,
                        _ => 16,
                    }
                )
            ) - 1;
        // struct landlock_ruleset_attr: rights over files, over the network.
        ulong[] handled = [files, version >= 4 ? 3UL : 0];
        var rules = (int)syscall(CreateRuleset, handled, version >= 4 ? 16 : 8, 0);
        if (rules < 0)
            return false;
        foreach (var directory in readable)
        {
            var opened = open(directory, OpenPath | CloseOnExec);
            if (opened < 0)
                continue;
            // struct landlock_path_beneath_attr, packed: eight bytes of rights, four of the directory.
            var rule = new byte[12];
            BitConverter.TryWriteBytes(rule.AsSpan(), Reading & files);
            BitConverter.TryWriteBytes(rule.AsSpan(8), opened);
            _ = syscall(AddRule, rules, 1, rule, 0);
            _ = close(opened);
        }

        var isDone = prctl(NoNewPrivileges, 1, 0, 0, 0) == 0 && syscall(RestrictSelf, rules, 0, 0) == 0;
        _ = close(rules);
        return isDone;
    }

    [LibraryImport("libc", SetLastError = true)]
    private static partial long syscall(long number, nint attributes, nint size, uint flags);

    [LibraryImport("libc", SetLastError = true)]
    private static partial long syscall(long number, [In] ulong[] attributes, nint size, uint flags);

    [LibraryImport("libc", SetLastError = true)]
    private static partial long syscall(long number, nint rules, nint kind, [In] byte[] rule, uint flags);

    [LibraryImport("libc", SetLastError = true, StringMarshalling = StringMarshalling.Utf8)]
    private static partial int open(string path, int flags);

    [LibraryImport("libc", SetLastError = true)]
    private static partial int close(int handle);

    [LibraryImport("libc", SetLastError = true)]
    private static partial int prctl(int option, nint second, nint third, nint fourth, nint fifth);
}
