package dachshund.core.formula;

import com.ezylang.evalex.EvaluationException;
import com.ezylang.evalex.Expression;
import com.ezylang.evalex.config.ExpressionConfiguration;
import com.ezylang.evalex.config.MapBasedFunctionDictionary;
import com.ezylang.evalex.config.OperatorDictionaryIfc;
import com.ezylang.evalex.data.DataAccessorIfc;
import com.ezylang.evalex.data.EvaluationValue;
import com.ezylang.evalex.functions.AbstractFunction;
import com.ezylang.evalex.functions.FunctionIfc;
import com.ezylang.evalex.functions.FunctionParameter;
import com.ezylang.evalex.functions.basic.AbsFunction;
import com.ezylang.evalex.functions.basic.CeilingFunction;
import com.ezylang.evalex.functions.basic.FloorFunction;
import com.ezylang.evalex.functions.basic.IfFunction;
import com.ezylang.evalex.functions.basic.MaxFunction;
import com.ezylang.evalex.functions.basic.MinFunction;
import com.ezylang.evalex.functions.basic.RoundFunction;
import com.ezylang.evalex.functions.basic.SqrtFunction;
import com.ezylang.evalex.functions.string.StringContains;
import com.ezylang.evalex.functions.string.StringLeftFunction;
import com.ezylang.evalex.functions.string.StringLengthFunction;
import com.ezylang.evalex.functions.string.StringLowerFunction;
import com.ezylang.evalex.functions.string.StringRightFunction;
import com.ezylang.evalex.functions.string.StringTrimFunction;
import com.ezylang.evalex.functions.string.StringUpperFunction;
import com.ezylang.evalex.operators.OperatorIfc;
import com.ezylang.evalex.operators.PrefixOperator;
import com.ezylang.evalex.operators.booleans.InfixAndOperator;
import com.ezylang.evalex.operators.booleans.InfixOrOperator;
import com.ezylang.evalex.operators.booleans.PrefixNotOperator;
import com.ezylang.evalex.parser.Token;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.unit.Units;
import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.DoubleStream;

/** What a formula can call, and how the expression library is set up: only what is listed here, nothing that reflects. */
public final class FormulaFunctions {

    /** Functions whose first part must be the name of an input. */
    static final Set<String> LOOKS_BACK =
            Set.of("prev", "since", "count", "total", "mean", "weighted", "increase", "good", "otherwise");
    /** Of these, the ones whose result stays as it is while time goes by. */
    static final Set<String> TIMELESS = Set.of("prev", "good", "otherwise");
    /** Functions whose second part is a window. */
    static final Set<String> WINDOWS = Set.of("count", "total", "mean", "weighted", "increase");

    /** Name, how it is written, and what it gives; in the order of a help page. */
    public record Help(String name, String written, String gives) {}

    public static final List<Help> HELP = List.of(
            new Help("if", "if(a > 5, b, c)", "b where the condition holds, else c"),
            new Help("min, max", "min(a, b)", "the smallest or largest"),
            new Help("abs, sqrt", "abs(a)", "without sign; square root"),
            new Help("round", "round(a, 1)", "to so many digits, half up; floor and ceiling to whole numbers"),
            new Help("prev", "prev(a)", "the value before the last change"),
            new Help("since", "since(a)", "seconds since the value changed"),
            new Help("count", "count(a, \"10 min\")", "how many values arrived in the window, of any kind"),
            new Help("total", "total(a, \"10 min\")", "their sum"),
            new Help("mean", "mean(a, \"10 min\")", "their mean; each value that arrived counts once"),
            new Help(
                    "weighted",
                    "weighted(a, \"10 min\")",
                    "their mean, each weighted by how long it stood in the window"),
            new Help(
                    "increase",
                    "increase(a, \"1 h\")",
                    "what a counter went up in the window; one that starts again counts from 0, increase(a, \"1 h\", 65536) one that goes round there"),
            new Help(
                    "otherwise",
                    "otherwise(a, 0)",
                    "the input where it has a value that is not bad, else the second part"),
            new Help("convert", "convert(a, \"kW\", \"MW\")", "in another unit"),
            new Help("good", "good(a)", "whether the input can be trusted; does not spoil the result's quality"),
            new Help(
                    "text",
                    "left(t, 3), right(t, 2), middle(t, 1, 4)",
                    "pieces of a text, places counted from 0: middle(t, 1, 4) is the second to the fourth letter; also upper, lower, trim, length; + joins"),
            new Help(
                    "find, contains",
                    "find(t, \"LOT\")",
                    "the place where it stands, from 0, else -1; capital and small letters differ, as in =. contains(t, \"lot\") does not tell them apart"),
            new Help("and, or, not", "a > 1 and not b", "conditions together, also written && || !; = <> < <= > >="));

    private static final Set<String> CONSTANTS = Set.of("true", "false", "pi");
    private static final ThreadLocal<UsedInputs> CURRENT = new ThreadLocal<>();
    private static final ExpressionConfiguration CONFIGURATION = build();

    private FormulaFunctions() {}

    static boolean isConstant(String name) {
        return CONSTANTS.contains(name.toLowerCase(java.util.Locale.ROOT));
    }

    static ExpressionConfiguration configuration() {
        return CONFIGURATION;
    }

    /** Something that evaluates. */
    interface Evaluation {
        EvaluationValue evaluate() throws com.ezylang.evalex.BaseException;
    }

    /** Evaluates with these inputs. */
    static EvaluationValue with(UsedInputs inputs, Evaluation evaluation) throws com.ezylang.evalex.BaseException {
        UsedInputs outer = CURRENT.get();
        CURRENT.set(inputs);
        try {
            return evaluation.evaluate();
        } finally {
            CURRENT.set(outer);
        }
    }

    static String plain(BigDecimal number) {
        return number.signum() == 0 ? "0" : number.stripTrailingZeros().toPlainString();
    }

    private static ExpressionConfiguration build() {
        Map<String, FunctionIfc> functions = new LinkedHashMap<>();
        functions.put("IF", new IfFunction());
        functions.put("MIN", new MinFunction());
        functions.put("MAX", new MaxFunction());
        functions.put("ABS", new AbsFunction());
        functions.put("SQRT", new SqrtFunction());
        functions.put("ROUND", new Round());
        functions.put("FLOOR", new Floor());
        functions.put("CEILING", new Ceiling());
        functions.put("LEFT", new StringLeftFunction());
        functions.put("RIGHT", new StringRightFunction());
        functions.put("MIDDLE", new Middle());
        functions.put("UPPER", new StringUpperFunction());
        functions.put("LOWER", new StringLowerFunction());
        functions.put("TRIM", new StringTrimFunction());
        functions.put("LENGTH", new StringLengthFunction());
        functions.put("CONTAINS", new StringContains());
        functions.put("PREV", new Previous());
        functions.put("SINCE", new Since());
        functions.put("GOOD", new Good());
        functions.put("COUNT", new Windowed(InputHistory::count));
        functions.put("TOTAL", new Windowed((history, window, now) -> numbers(history, window, now)
                .sum()));
        functions.put("MEAN", new Windowed((history, window, now) -> numbers(history, window, now)
                .average()
                .orElse(Double.NaN)));
        functions.put("WEIGHTED", new Windowed(FormulaFunctions::weighted));
        functions.put("INCREASE", new Increase());
        functions.put("OTHERWISE", new Otherwise());
        functions.put("FIND", new Find());
        functions.put("CONVERT", new Convert());
        MapBasedFunctionDictionary dictionary = new MapBasedFunctionDictionary();
        functions.forEach(dictionary::addFunction);
        return ExpressionConfiguration.builder()
                .functionDictionary(dictionary)
                .operatorDictionary(operators())
                .mathContext(new MathContext(16, RoundingMode.HALF_UP))
                .defaultConstants(Map.of(
                        "TRUE",
                        EvaluationValue.TRUE,
                        "FALSE",
                        EvaluationValue.FALSE,
                        "PI",
                        EvaluationValue.numberValue(BigDecimal.valueOf(Math.PI))))
                .dataAccessorSupplier(InputsAsData::new)
                .arraysAllowed(false)
                .structuresAllowed(false)
                .binaryAllowed(false)
                .singleQuoteStringLiteralsAllowed(true)
                .implicitMultiplicationAllowed(false)
                .stripTrailingZeros(true)
                .maxRecursionDepth(200)
                .build();
    }

    /** "not a > 9" is not of the comparison, as it is read; the sign ! binds to what stands next to it. */
    @PrefixOperator(precedence = OperatorIfc.OPERATOR_PRECEDENCE_AND + 1)
    private static final class NotInWords extends PrefixNotOperator {}

    /** Those of the library, and the words for and, or, not. */
    private static OperatorDictionaryIfc operators() {
        OperatorDictionaryIfc operators =
                ExpressionConfiguration.defaultConfiguration().getOperatorDictionary();
        operators.addOperator("AND", new InfixAndOperator());
        operators.addOperator("OR", new InfixOrOperator());
        operators.addOperator("NOT", new NotInWords());
        return operators;
    }

    private static DoubleStream numbers(InputHistory history, Duration window, Instant now) {
        return history.window(window, now).stream().mapToDouble(number -> number);
    }

    private static double weighted(InputHistory history, Duration window, Instant now) {
        double sum = 0;
        double seconds = 0;
        for (InputHistory.Stood each : history.stood(window, now)) {
            sum += each.number() * each.seconds();
            seconds += each.seconds();
        }
        return sum / seconds;
    }

    private static final class InputsAsData implements DataAccessorIfc {

        @Override
        public EvaluationValue getData(String name) {
            UsedInputs inputs = CURRENT.get();
            return inputs == null ? null : value(inputs.value(name));
        }

        @Override
        public void setData(String name, EvaluationValue value) {
            throw new UnsupportedOperationException("A formula cannot set its inputs.");
        }
    }

    private static EvaluationValue value(Object value) {
        if (value instanceof Boolean on) {
            return EvaluationValue.booleanValue(on);
        }
        if (value instanceof BigDecimal exact) {
            return EvaluationValue.numberValue(exact);
        }
        if (value instanceof java.math.BigInteger exact) {
            return EvaluationValue.numberValue(new BigDecimal(exact));
        }
        if (value instanceof Number number) {
            return EvaluationValue.numberValue(
                    number instanceof Long whole
                            ? BigDecimal.valueOf(whole)
                            : BigDecimal.valueOf(number.doubleValue()));
        }
        return value instanceof java.time.Instant at
                ? EvaluationValue.dateTimeValue(at)
                : EvaluationValue.stringValue(String.valueOf(value));
    }

    private static EvaluationValue number(double number) {
        if (!Double.isFinite(number)) {
            throw new ArithmeticException("The window holds no value");
        }
        return EvaluationValue.numberValue(BigDecimal.valueOf(number));
    }

    private static String name(EvaluationValue lazy) {
        return lazy.getExpressionNode().getToken().getValue();
    }

    /** A piece of a text; where the text ends before, what there is. */
    @FunctionParameter(name = "text")
    @FunctionParameter(name = "start", nonNegative = true)
    @FunctionParameter(name = "end", nonNegative = true, isVarArg = true)
    private static final class Middle extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            String text = parts[0].getStringValue();
            int from = place(parts[1], text);
            int to = parts.length > 2 ? place(parts[2], text) : text.length();
            return EvaluationValue.stringValue(text.substring(from, Math.max(from, to)));
        }

        private static int place(EvaluationValue at, String text) {
            BigDecimal wanted = at.getNumberValue();
            return wanted.compareTo(BigDecimal.valueOf(text.length())) > 0
                    ? text.length()
                    : Math.max(0, wanted.intValue());
        }
    }

    /** Digits before the point of the largest number that is written out or rounded: beyond it that takes for ever. */
    private static final int MOST_DIGITS = 400;

    static boolean boundless(BigDecimal number) {
        return (long) number.precision() - number.scale() > MOST_DIGITS || number.scale() > 2 * MOST_DIGITS;
    }

    private static void bounded(EvaluationValue... parts) {
        for (EvaluationValue part : parts) {
            if (part.isNumberValue() && boundless(part.getNumberValue())) {
                throw new ArithmeticException("The number is too large to be rounded");
            }
        }
    }

    @FunctionParameter(name = "value")
    @FunctionParameter(name = "scale")
    private static final class Round extends RoundFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            bounded(parts);
            if (parts[1].getNumberValue().abs().compareTo(BigDecimal.valueOf(MOST_DIGITS)) > 0) {
                throw new ArithmeticException("There are no so many digits to round to");
            }
            return super.evaluate(expression, token, parts);
        }
    }

    @FunctionParameter(name = "value")
    private static final class Floor extends FloorFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            bounded(parts);
            return super.evaluate(expression, token, parts);
        }
    }

    @FunctionParameter(name = "value")
    private static final class Ceiling extends CeilingFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            bounded(parts);
            return super.evaluate(expression, token, parts);
        }
    }

    @FunctionParameter(name = "input", isLazy = true)
    private static final class Previous extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            String name = name(parts[0]);
            InputHistory history = CURRENT.get().history(name);
            CURRENT.get().use(name, history.previous());
            return value(history.previous()
                    .value()
                    .orElseThrow(() ->
                            new UsedInputs.NoValue(name, history.previous().quality())));
        }
    }

    @FunctionParameter(name = "input", isLazy = true)
    private static final class Since extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            String name = name(parts[0]);
            InputHistory history = CURRENT.get().history(name);
            if (!history.latest().arrived()) {
                throw new UsedInputs.NoValue(name, history.latest().quality());
            }
            CURRENT.get().use(name, history.latest());
            return number(
                    Duration.between(history.changedAt(), CURRENT.get().now()).toMillis() / 1000.0);
        }
    }

    @FunctionParameter(name = "input", isLazy = true)
    private static final class Good extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            TagValue latest = CURRENT.get().history(name(parts[0])).latest();
            return EvaluationValue.booleanValue(
                    latest.quality().isGood() && latest.value().isPresent());
        }
    }

    /** Something over the window of an input. */
    interface OverWindow {
        double of(InputHistory history, Duration window, Instant now);
    }

    @FunctionParameter(name = "input", isLazy = true)
    @FunctionParameter(name = "window")
    private static final class Windowed extends AbstractFunction {
        private final OverWindow over;

        private Windowed(OverWindow over) {
            this.over = over;
        }

        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            String name = name(parts[0]);
            InputHistory history = CURRENT.get().history(name);
            CURRENT.get().use(name, history.latest());
            return number(over.of(
                    history,
                    PeriodText.read(parts[1].getStringValue()),
                    CURRENT.get().now()));
        }
    }

    /** What a counter went up; one that fell started again at 0, or went round. */
    @FunctionParameter(name = "input", isLazy = true)
    @FunctionParameter(name = "window")
    @FunctionParameter(name = "round", isVarArg = true)
    private static final class Increase extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            String name = name(parts[0]);
            InputHistory history = CURRENT.get().history(name);
            CURRENT.get().use(name, history.latest());
            double round = parts.length > 2 ? parts[2].getNumberValue().doubleValue() : 0;
            double sum = 0;
            double before = Double.NaN;
            for (InputHistory.Stood each : history.stood(
                    PeriodText.read(parts[1].getStringValue()), CURRENT.get().now())) {
                if (each.number() >= before) {
                    sum += each.number() - before;
                } else if (each.number() < before) {
                    sum += each.number() + (round > before ? round - before : 0);
                }
                before = each.number();
            }
            return number(Double.isNaN(before) ? before : sum);
        }
    }

    @FunctionParameter(name = "input", isLazy = true)
    @FunctionParameter(name = "else", isLazy = true)
    private static final class Otherwise extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts)
                throws EvaluationException {
            String name = name(parts[0]);
            TagValue latest = CURRENT.get().history(name).latest();
            if (latest.quality().isBad() || latest.value().isEmpty()) {
                return expression.evaluateSubtree(parts[1].getExpressionNode());
            }
            CURRENT.get().use(name, latest);
            return value(latest.value().orElseThrow());
        }
    }

    @FunctionParameter(name = "text")
    @FunctionParameter(name = "what")
    private static final class Find extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            return number(parts[0].getStringValue().indexOf(parts[1].getStringValue()));
        }
    }

    @FunctionParameter(name = "value")
    @FunctionParameter(name = "from")
    @FunctionParameter(name = "to")
    private static final class Convert extends AbstractFunction {
        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts)
                throws EvaluationException {
            if (!parts[0].isNumberValue()) {
                throw EvaluationException.ofUnsupportedDataTypeInOperation(token);
            }
            return number(Units.convert(
                    parts[0].getNumberValue().doubleValue(), parts[1].getStringValue(), parts[2].getStringValue()));
        }
    }
}
