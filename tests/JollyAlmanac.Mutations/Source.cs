using System.Text;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;
using Microsoft.CodeAnalysis.Text;

namespace JollyAlmanac.Mutations;

/// <summary>A source file, and what it looks like with all its mutants in it, each behind its switch.</summary>
/// <param name="name">Below src, with forward slashes.</param>
/// <param name="text">Its text.</param>
internal sealed class Source(string name, string text)
{
    private readonly SyntaxNode root = CSharpSyntaxTree.ParseText(text).GetRoot();

    /// <summary>The file, below src.</summary>
    public string Name => name;

    /// <summary>All edits of all bodies.</summary>
    public IEnumerable<Mutant> Mutants() =>
        Bodies()
            .SelectMany(body => body.DescendantNodesAndSelf(node => node is not InterpolatedStringExpressionSyntax))
            .SelectMany(Operators.Of)
            .Select(edit => MutantOf(edit.Span, edit.Becomes));

    /// <summary>The edit of a text that is there once in some body, white space apart; null where it is not.</summary>
    public Mutant? Named(string was, string becomes)
    {
        var pattern = new System.Text.RegularExpressions.Regex(
            string.Join(
                @"\s*",
                was.Where(one => !char.IsWhiteSpace(one))
                    .Select(one => System.Text.RegularExpressions.Regex.Escape($"{one}"))
            )
        );
        var found = pattern.Match(text);
        return found.Success && Bodies().Any(body => body.Span.Contains(new TextSpan(found.Index, found.Length)))
            ? MutantOf(new TextSpan(found.Index, found.Length), becomes)
            : null;
    }

    private Mutant MutantOf(TextSpan span, string becomes) =>
        new(name, text.AsSpan(0, span.Start).Count('\n') + 1, span, text.Substring(span.Start, span.Length), becomes);

    /// <summary>The file with a whole body for each mutant, and the one as it was.</summary>
    /// <param name="mutants">Mutants of this file.</param>
    /// <param name="lines">Which lines (from 1) are whose.</param>
    public string With(IReadOnlyCollection<Mutant> mutants, out List<(int First, int Last, Mutant Mutant)> lines)
    {
        var written = new StringBuilder();
        lines = [];
        var at = 0;
        foreach (var body in Bodies().OrderBy(body => body.SpanStart))
        {
            var here = mutants.Where(mutant => body.Span.Contains(mutant.Span)).ToList();
            if (here.Count == 0)
                continue;
            var span = body.Span;
            // The arrow, and the semicolon that ends the member.
            var end = body is ArrowExpressionClauseSyntax ? SemicolonAfter(body) : span.End;
            written.Append(text, at, span.Start - at);
            if (body is ArrowExpressionClauseSyntax { Parent: PropertyDeclarationSyntax or IndexerDeclarationSyntax })
                written.Append("{ get ");
            written.Append("{\n");
            foreach (var mutant in here)
            {
                var first = Lines(written);
                written.Append("if (AlmanacMutant.On(").Append(mutant.Id).Append("))\n");
                written.Append(AsBlock(body, Edited(body, mutant))).Append("\nelse\n");
                lines.Add((first, Lines(written) - 1, mutant));
            }

            written.Append(AsBlock(body, InnerText(body))).Append("\n}");
            if (body is ArrowExpressionClauseSyntax { Parent: PropertyDeclarationSyntax or IndexerDeclarationSyntax })
                written.Append(" }");
            at = end;
        }

        return written.Append(text, at, text.Length - at).ToString();
    }

    private static int Lines(StringBuilder written)
    {
        var lines = 1;
        foreach (var chunk in written.GetChunks())
            lines += chunk.Span.Count('\n');
        return lines;
    }

    // Bodies of methods, constructors and accessors, the outermost ones.
    private IEnumerable<SyntaxNode> Bodies() =>
        root.DescendantNodes(node => node is not (BlockSyntax or ArrowExpressionClauseSyntax))
            .Where(node =>
                node
                    is BlockSyntax { Parent: BaseMethodDeclarationSyntax or AccessorDeclarationSyntax }
                        or ArrowExpressionClauseSyntax
                        {
                            Parent: BaseMethodDeclarationSyntax
                                or AccessorDeclarationSyntax
                                or PropertyDeclarationSyntax
                                or IndexerDeclarationSyntax
                        }
            )
            .Where(node => node is not ArrowExpressionClauseSyntax { Expression: RefExpressionSyntax });

    private string InnerText(SyntaxNode body) => Inner(body) is var span ? text.Substring(span.Start, span.Length) : "";

    private static TextSpan Inner(SyntaxNode body) =>
        body is ArrowExpressionClauseSyntax arrow ? arrow.Expression.Span : body.Span;

    private string Edited(SyntaxNode body, Mutant mutant)
    {
        var span = Inner(body);
        return string.Concat(
            text.AsSpan(span.Start, mutant.Span.Start - span.Start),
            mutant.Becomes,
            text.AsSpan(mutant.Span.End, span.End - mutant.Span.End)
        );
    }

    private static string AsBlock(SyntaxNode body, string inner) =>
        body is not ArrowExpressionClauseSyntax arrow ? inner
        : arrow.Expression is ThrowExpressionSyntax ? $"{{ {inner}; }}"
        : IsValue(arrow) ? $"{{ return {inner}; }}"
        : $"{{ {inner}; }}";

    private static bool IsValue(ArrowExpressionClauseSyntax arrow) =>
        arrow.Parent switch
        {
            PropertyDeclarationSyntax or IndexerDeclarationSyntax => true,
            AccessorDeclarationSyntax accessor => accessor.IsKind(SyntaxKind.GetAccessorDeclaration),
            MethodDeclarationSyntax method => method.ReturnType switch
            {
                PredefinedTypeSyntax named => !named.Keyword.IsKind(SyntaxKind.VoidKeyword),
                IdentifierNameSyntax { Identifier.Text: "Task" or "ValueTask" } => !method.Modifiers.Any(
                    SyntaxKind.AsyncKeyword
                ),
                _ => true,
            },
            OperatorDeclarationSyntax or ConversionOperatorDeclarationSyntax => true,
            _ => false,
        };

    private static int SemicolonAfter(SyntaxNode body) =>
        body.GetLastToken().GetNextToken() is { RawKind: (int)SyntaxKind.SemicolonToken } semicolon
            ? semicolon.Span.End
            : body.Span.End;
}
