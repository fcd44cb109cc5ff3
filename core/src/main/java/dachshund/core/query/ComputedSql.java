package dachshund.core.query;

import com.ezylang.evalex.parser.ASTNode;
import com.ezylang.evalex.parser.Token;
import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.layout.SqlType;
import dachshund.core.reader.QueryProblem;
import dachshund.core.sql.Dialect;
import java.math.BigDecimal;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;

/** SQL of a formula over columns of the answer: arithmetic, comparisons, abs, round and if. */
final class ComputedSql {

    private static final Set<String> COMPARISONS = Set.of("=", "==", "!=", "<>", "<", "<=", ">", ">=");

    private final Map<String, String> columns;
    private final Dialect dialect;

    private ComputedSql(Map<String, String> columns, Dialect dialect) {
        this.columns = columns;
        this.dialect = dialect;
    }

    /** @param columns what each name stands for, in SQL */
    static String of(String formula, Map<String, String> columns, Dialect dialect) throws QueryProblem {
        try {
            return new ComputedSql(columns, dialect).of(Formula.tree(formula, columns.keySet()));
        } catch (FormulaProblem problem) {
            throw new QueryProblem(problem.getMessage());
        }
    }

    /** As a floating-point number: whole numbers divide differently on each engine. */
    static String floating(String sql, Dialect dialect) {
        return "CAST(" + sql + " AS " + dialect.typeName(SqlType.DOUBLE) + ")";
    }

    private String of(ASTNode node) throws QueryProblem {
        Token token = node.getToken();
        List<ASTNode> parts = node.getParameters();
        return switch (token.getType()) {
            case NUMBER_LITERAL -> number(token.getValue());
            case VARIABLE_OR_CONSTANT -> column(token.getValue());
            case PREFIX_OPERATOR -> "(" + token.getValue() + of(parts.get(0)) + ")";
            case INFIX_OPERATOR -> infix(token.getValue(), of(parts.get(0)), of(parts.get(1)));
            case FUNCTION -> function(token.getValue().toLowerCase(Locale.ROOT), parts);
            default -> throw unknown(token.getValue());
        };
    }

    private static String number(String text) throws QueryProblem {
        try {
            return new BigDecimal(text).toPlainString();
        } catch (NumberFormatException other) {
            throw unknown(text);
        }
    }

    private String column(String name) throws QueryProblem {
        for (Map.Entry<String, String> each : columns.entrySet()) {
            if (each.getKey().equalsIgnoreCase(name)) {
                return each.getValue();
            }
        }
        throw unknown(name);
    }

    private String infix(String operator, String left, String right) throws QueryProblem {
        return switch (operator) {
            case "+", "-", "*" -> "(" + left + " " + operator + " " + right + ")";
            case "/" -> "(" + floating(left, dialect) + " / " + divisor(right) + ")";
            case "&&" -> "(" + left + " AND " + right + ")";
            case "||" -> "(" + left + " OR " + right + ")";
            default -> {
                if (!COMPARISONS.contains(operator)) {
                    throw unknown(operator);
                }
                String sql = operator.equals("==") ? "=" : operator.equals("!=") ? "<>" : operator;
                yield "(" + left + " " + sql + " " + right + ")";
            }
        };
    }

    private static String divisor(String right) {
        return right.matches("[0-9.]*[1-9][0-9.]*") ? right : "NULLIF(" + right + ", 0)";
    }

    private String function(String name, List<ASTNode> parts) throws QueryProblem {
        if (name.equals("abs") && parts.size() == 1) {
            return "ABS(" + of(parts.get(0)) + ")";
        }
        if (name.equals("round") && (parts.size() == 1 || parts.size() == 2)) {
            // Of exact numbers, since not every engine rounds others to a place.
            return "ROUND(CAST(" + of(parts.get(0)) + " AS " + dialect.typeName(SqlType.decimal(30, 10)) + "), "
                    + (parts.size() == 1 ? "0" : of(parts.get(1))) + ")";
        }
        if (name.equals("if") && parts.size() == 3) {
            return "CASE WHEN " + of(parts.get(0)) + " THEN " + of(parts.get(1)) + " ELSE " + of(parts.get(2)) + " END";
        }
        throw unknown(name);
    }

    private static QueryProblem unknown(String what) {
        return new QueryProblem(
                "\"" + what
                        + "\" is not for a computed column: it takes + - * / ( ), comparisons, abs, round and if. More than that is written as SQL.");
    }
}
