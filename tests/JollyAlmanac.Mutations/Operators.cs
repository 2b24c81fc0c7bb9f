using System.Globalization;
using Microsoft.CodeAnalysis;
using Microsoft.CodeAnalysis.CSharp;
using Microsoft.CodeAnalysis.CSharp.Syntax;
using Microsoft.CodeAnalysis.Text;

namespace JollyAlmanac.Mutations;

/// <summary>The edits that are tried: the usual mutation operators, where they are likely to compile.</summary>
internal static class Operators
{
    private static readonly Dictionary<SyntaxKind, string> Swapped = new()
    {
        [SyntaxKind.LessThanToken] = "<=",
        [SyntaxKind.LessThanEqualsToken] = "<",
        [SyntaxKind.GreaterThanToken] = ">=",
        [SyntaxKind.GreaterThanEqualsToken] = ">",
        [SyntaxKind.EqualsEqualsToken] = "!=",
        [SyntaxKind.ExclamationEqualsToken] = "==",
        [SyntaxKind.AmpersandAmpersandToken] = "||",
        [SyntaxKind.BarBarToken] = "&&",
        [SyntaxKind.MinusToken] = "+",
    };

    private static readonly Dictionary<string, string> Renamed = new()
    {
        ["Any"] = "All",
        ["All"] = "Any",
        ["Min"] = "Max",
        ["Max"] = "Min",
        ["OrderBy"] = "OrderByDescending",
        ["OrderByDescending"] = "OrderBy",
        ["First"] = "Last",
        ["FirstOrDefault"] = "LastOrDefault",
        ["LastOrDefault"] = "FirstOrDefault",
        ["PlusDays"] = "PlusWeeks",
    };

    /// <summary>The edits of one node of a body: what is replaced, and by what.</summary>
    public static IEnumerable<(TextSpan Span, string Becomes)> Of(SyntaxNode node)
    {
        switch (node)
        {
            case BinaryExpressionSyntax binary when Swapped.TryGetValue(binary.OperatorToken.Kind(), out var other):
                var isLogical =
                    binary.OperatorToken.Kind() is SyntaxKind.AmpersandAmpersandToken or SyntaxKind.BarBarToken;
                // A pattern's variable would not be assigned on the other side.
                if (!isLogical || !Declares(binary))
                    yield return (binary.OperatorToken.Span, other);
                break;
            case PrefixUnaryExpressionSyntax { RawKind: (int)SyntaxKind.LogicalNotExpression } not when !Declares(not):
                yield return (not.OperatorToken.Span, "");
                break;
            case RelationalPatternSyntax relation
                when Swapped.TryGetValue(relation.OperatorToken.Kind(), out var other):
                yield return (relation.OperatorToken.Span, other);
                break;
            case LiteralExpressionSyntax literal
                when literal.Parent is not (ConstantPatternSyntax or CaseSwitchLabelSyntax):
                if (literal.IsKind(SyntaxKind.TrueLiteralExpression))
                    yield return (literal.Span, "false");
                if (literal.IsKind(SyntaxKind.FalseLiteralExpression))
                    yield return (literal.Span, "true");
                if (literal.Token.Value is int number)
                    yield return (literal.Span, (number == 1 ? 0 : number + 1).ToString(CultureInfo.InvariantCulture));
                break;
            case IsPatternExpressionSyntax
            {
                Pattern: ConstantPatternSyntax { Expression.RawKind: (int)SyntaxKind.NullLiteralExpression }
            } isNull:
                yield return (isNull.Pattern.Span, "not null");
                break;
            case IsPatternExpressionSyntax
            {
                Pattern: UnaryPatternSyntax
                {
                    Pattern: ConstantPatternSyntax { Expression.RawKind: (int)SyntaxKind.NullLiteralExpression }
                } isNotNull
            }:
                yield return (isNotNull.Span, "null");
                break;
            case MemberAccessExpressionSyntax { Parent: InvocationExpressionSyntax call } member
                when Renamed.TryGetValue(member.Name.Identifier.Text, out var other)
                    && (other is not ("Any" or "All") || call.ArgumentList.Arguments.Count == 1):
                yield return (member.Name.Identifier.Span, other);
                break;
            case ConditionalExpressionSyntax choice when !Declares(choice.Condition):
                yield return (
                    TextSpan.FromBounds(choice.WhenTrue.SpanStart, choice.WhenFalse.Span.End),
                    $"{choice.WhenFalse} : {choice.WhenTrue}"
                );
                break;
            case IfStatementSyntax { Else: null } guard
                when !Declares(guard.Condition)
                    && guard.Statement is ReturnStatementSyntax or ThrowStatementSyntax or ContinueStatementSyntax:
                yield return (guard.Condition.Span, $"AlmanacMutant.Never && ({guard.Condition})");
                break;
            case ExpressionStatementSyntax { Expression: InvocationExpressionSyntax or AwaitExpressionSyntax } statement
                when !statement.DescendantTokens().Any(token => token.IsKind(SyntaxKind.OutKeyword)):
                yield return (statement.Span, "{ }");
                break;
        }
    }

    private static bool Declares(SyntaxNode node) =>
        node.DescendantNodes().OfType<SingleVariableDesignationSyntax>().Any();
}
