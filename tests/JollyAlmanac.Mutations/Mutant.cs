using Microsoft.CodeAnalysis.Text;

namespace JollyAlmanac.Mutations;

/// <summary>One edit of one place.</summary>
/// <param name="File">The file, below src, with forward slashes: "JollyAlmanac.Core/Series/Planner.cs".</param>
/// <param name="Line">The line it begins on, from 1.</param>
/// <param name="Span">What is replaced.</param>
/// <param name="Was">The text that is replaced.</param>
/// <param name="Becomes">The text in its place.</param>
internal sealed record Mutant(string File, int Line, TextSpan Span, string Was, string Becomes)
{
    /// <summary>What it is switched on by.</summary>
    public int Id { get; init; }

    /// <summary>"Core", "Web".</summary>
    public string Project => File.Split('/')[0]["JollyAlmanac.".Length..];

    /// <inheritdoc />
    public override string ToString() =>
        $"{File["JollyAlmanac.".Length..]}:{Line}  {OneLine(Was)}  →  {(Becomes.Length == 0 ? "(nothing)" : OneLine(Becomes))}";

    private static string OneLine(string text) =>
        string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)) is { Length: > 110 } longer
            ? longer[..110] + "…"
            : string.Join(' ', text.Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));
}
