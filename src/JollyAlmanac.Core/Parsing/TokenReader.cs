namespace JollyAlmanac.Core.Parsing;

/// <summary>What the readers of days, times and lines share: looking at the pieces of a line, past its ends too.</summary>
/// <param name="tokens">The pieces.</param>
internal abstract class TokenReader(IReadOnlyList<Token> tokens)
{
    /// <summary>The pieces of the line.</summary>
    protected IReadOnlyList<Token> Tokens { get; } = tokens;

    /// <summary>The word there, in lower case; empty where there is none.</summary>
    protected string WordAt(int at) => At(at)?.Word ?? "";

    /// <summary>The number there; -1 where there is none.</summary>
    protected int NumberAt(int at) => At(at)?.Number ?? -1;

    /// <summary>The sign there; none where there is none.</summary>
    protected char SignAt(int at) => At(at)?.Sign ?? '\0';

    /// <summary>Whether a piece is there, without white space before it.</summary>
    protected bool Glued(int at) => At(at) is { Stands: false };

    private Token? At(int at) => at >= 0 && at < Tokens.Count ? Tokens[at] : null;
}
