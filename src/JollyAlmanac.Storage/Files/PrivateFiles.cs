namespace JollyAlmanac.Storage.Files;

/// <summary>Files and directories that only the user the almanac runs as may read.</summary>
public static class PrivateFiles
{
    private const UnixFileMode OwnFile = UnixFileMode.UserRead | UnixFileMode.UserWrite;

    /// <summary>Makes a directory, where it is missing, for its user alone.</summary>
    public static void MakeDirectory(string path)
    {
        if (OperatingSystem.IsWindows())
            Directory.CreateDirectory(path);
        else
            Directory.CreateDirectory(path, OwnFile | UnixFileMode.UserExecute);
    }

    /// <summary>Makes an empty file for its user alone, where there is none, and takes one that is there from all others.</summary>
    public static void Touch(string path)
    {
        // One that is there is not opened: closing it would take SQLite's locks from this process.
        if (!File.Exists(path))
        {
            var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
            if (!OperatingSystem.IsWindows())
                options.UnixCreateMode = OwnFile;
            new FileStream(path, options).Dispose();
        }

        Own(path);
    }

    /// <summary>Takes a file from everybody but its user.</summary>
    public static void Own(string path)
    {
        if (!OperatingSystem.IsWindows())
            File.SetUnixFileMode(path, OwnFile);
    }

    /// <summary>Writes a file beside its place and moves it there, for its user alone.</summary>
    public static void Write(string path, ReadOnlySpan<byte> bytes)
    {
        var aside = $"{path}.{Guid.NewGuid():N}";
        var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows())
            options.UnixCreateMode = OwnFile;
        using (var file = new FileStream(aside, options))
            file.Write(bytes);
        File.Move(aside, path, overwrite: true);
    }
}
