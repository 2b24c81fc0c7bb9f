using System.Collections.Immutable;

namespace JollyAlmanac.Core.Timetables;

/// <summary>Cells of a sheet that are merged into one; its text stands in the first.</summary>
/// <param name="FirstRow">The first row, from 0.</param>
/// <param name="LastRow">The last row, inclusive.</param>
/// <param name="FirstColumn">The first column, from 0.</param>
/// <param name="LastColumn">The last column, inclusive.</param>
public sealed record MergedCells(int FirstRow, int LastRow, int FirstColumn, int LastColumn);

/// <summary>A sheet of cells as it came in: of a workbook, of a file of comma-separated values, or pasted.</summary>
/// <param name="File">What the file is called; empty for what was pasted.</param>
/// <param name="Name">What the sheet is called; empty where its file has no sheets.</param>
/// <param name="Rows">Its rows of texts; a row may be shorter than others.</param>
public sealed record Sheet(string File, string Name, ImmutableArray<ImmutableArray<string>> Rows)
{
    /// <summary>The cells that are merged.</summary>
    public ImmutableArray<MergedCells> Merged { get; init; } = [];

    /// <summary>What was noticed in reading it, for people; empty for nothing.</summary>
    public string Remark { get; init; } = "";

    /// <summary>The text of a cell; empty where there is none.</summary>
    /// <param name="row">The row, from 0.</param>
    /// <param name="column">The column, from 0.</param>
    public string At(int row, int column) =>
        row >= 0 && row < Rows.Length && column >= 0 && column < Rows[row].Length ? Rows[row][column].Trim() : "";

    /// <summary>How many columns its widest row has.</summary>
    public int Width => Rows.IsEmpty ? 0 : Rows.Max(row => row.Length);

    /// <summary>What people call it: the file, and the sheet where the file has several.</summary>
    public string Called => Name.Length > 0 && File.Length > 0 ? $"{File}, {Name}" : File + Name;
}
