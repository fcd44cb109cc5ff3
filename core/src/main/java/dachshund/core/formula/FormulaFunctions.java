package dachshund.core.formula;

import com.ezylang.evalex.EvaluationException;
import com.ezylang.evalex.Expression;
import com.ezylang.evalex.config.ExpressionConfiguration;
import com.ezylang.evalex.config.MapBasedFunctionDictionary;
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
import com.ezylang.evalex.functions.basic.NotFunction;
import com.ezylang.evalex.functions.basic.RoundFunction;
import com.ezylang.evalex.functions.basic.SqrtFunction;
import com.ezylang.evalex.functions.string.StringContains;
import com.ezylang.evalex.functions.string.StringLeftFunction;
import com.ezylang.evalex.functions.string.StringLengthFunction;
import com.ezylang.evalex.functions.string.StringLowerFunction;
import com.ezylang.evalex.functions.string.StringRightFunction;
import com.ezylang.evalex.functions.string.StringTrimFunction;
import com.ezylang.evalex.functions.string.StringUpperFunction;
import com.ezylang.evalex.parser.Token;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.unit.Units;
import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** What a formula can call, and how the expression library is set up: only what is listed here, nothing that reflects. */
public final class FormulaFunctions {

    /** Functions whose first part must be the name of an input. */
    static final Set<String> LOOKS_BACK = Set.of("prev", "since", "count", "total", "mean", "good");
    /** Functions whose second part is a window. */
    static final Set<String> WINDOWS = Set.of("count", "total", "mean");

    /** Name, how it is written, and what it gives; in the order of a help page. */
    public record Help(String name, String written, String gives) {}

    public static final List<Help> HELP = List.of(
            new Help("if", "if(a > 5, b, c)", "b where the condition holds, else c"),
            new Help("min, max", "min(a, b)", "the smallest or largest"),
            new Help("abs, sqrt", "abs(a)", "without sign; square root"),
            new Help("round", "round(a, 1)", "to so many digits, half up; floor and ceiling to whole numbers"),
            new Help("prev", "prev(a)", "the value before the last change"),
            new Help("since", "since(a)", "seconds since the value changed"),
            new Help("count", "count(a, \"10 min\")", "how many values arrived in the window"),
            new Help("total", "total(a, \"10 min\")", "their sum"),
            new Help("mean", "mean(a, \"10 min\")", "their mean; each value that arrived counts once"),
            new Help("convert", "convert(a, \"kW\", \"MW\")", "in another unit"),
            new Help("good", "good(a)", "whether the input can be trusted; does not spoil the result's quality"),
            new Help(
                    "text",
                    "left(t, 3), right(t, 2), middle(t, 1, 4)",
                    "pieces of a text; also upper, lower, trim, length, contains; + joins"),
            new Help("and, or, not", "a > 1 && not(b)", "conditions together; also = <> < <= > >="));

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
        functions.put("NOT", new NotFunction());
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
        functions.put("COUNT", new Windowed(numbers -> numbers.size()));
        functions.put("TOTAL", new Windowed(numbers -> numbers.stream()
                .mapToDouble(number -> number)
                .sum()));
        functions.put(
                "MEAN",
                new Windowed(numbers ->
                        numbers.stream().mapToDouble(number -> number).average().orElse(Double.NaN)));
        functions.put("CONVERT", new Convert());
        MapBasedFunctionDictionary dictionary = new MapBasedFunctionDictionary();
        functions.forEach(dictionary::addFunction);
        return ExpressionConfiguration.builder()
                .functionDictionary(dictionary)
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

    /** Something over the numbers of a window. */
    interface OverNumbers {
        double of(List<Double> numbers);
    }

    @FunctionParameter(name = "input", isLazy = true)
    @FunctionParameter(name = "window")
    private static final class Windowed extends AbstractFunction {
        private final OverNumbers over;

        private Windowed(OverNumbers over) {
            this.over = over;
        }

        @Override
        public EvaluationValue evaluate(Expression expression, Token token, EvaluationValue... parts) {
            String name = name(parts[0]);
            InputHistory history = CURRENT.get().history(name);
            CURRENT.get().use(name, history.latest());
            return number(over.of(history.window(
                    PeriodText.read(parts[1].getStringValue()), CURRENT.get().now())));
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
