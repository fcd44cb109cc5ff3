package dachshund.core.formula;

import com.ezylang.evalex.BaseException;
import com.ezylang.evalex.EvaluationException;
import com.ezylang.evalex.Expression;
import com.ezylang.evalex.data.EvaluationValue;
import com.ezylang.evalex.parser.ASTNode;
import com.ezylang.evalex.parser.ParseException;
import com.ezylang.evalex.parser.Token;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PeriodText;
import dachshund.core.unit.Units;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * A computation over named inputs: arithmetic, comparisons, conditions, rounding, text, previous values and windows.
 * Read once, evaluated often. The quality of the result is the worst of the inputs it really used; a result that is no
 * finite number is bad. An instance is used by one thread at a time.
 */
public final class Formula {

    /** Longest formula, in characters. */
    public static final int LONGEST = 2000;

    /** Bad, because of an input: OPC UA Bad_DependentValueChanged is for devices; Uncertain and Bad keep the input's own code. */
    private static final long BAD_CONFIGURATION = 0x80890000L;

    private static final Pattern WORD = Pattern.compile("[A-Za-z_][A-Za-z0-9_]*");

    private final String text;
    private final Set<String> inputs;
    private final Expression expression;
    private final Duration longestWindow;
    private final boolean timed;

    private Formula(String text, Set<String> inputs, Expression expression, Duration longestWindow, boolean timed) {
        this.text = text;
        this.inputs = inputs;
        this.expression = expression;
        this.longestWindow = longestWindow;
        this.timed = timed;
    }

    /**
     * Reads a formula.
     *
     * @param names the inputs it may use; written with letters, digits and _ and compared without regard to case
     * @throws FormulaProblem where it cannot be read, names something else, or asks for what is never possible
     */
    public static Formula read(String text, Collection<String> names) throws FormulaProblem {
        if (text.isBlank()) {
            throw new FormulaProblem("A formula is needed, such as a + b.", 0, 0);
        }
        if (text.length() > LONGEST) {
            throw new FormulaProblem("A formula has up to " + LONGEST + " characters.", LONGEST, text.length());
        }
        Set<String> known = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        known.addAll(names);
        Expression expression = new Expression(text, FormulaFunctions.configuration());
        Set<String> used = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        Looked looked = new Looked();
        try {
            look(expression.getAbstractSyntaxTree(), known, used, looked);
        } catch (ParseException problem) {
            throw new FormulaProblem(
                    words(problem, text),
                    Math.max(0, problem.getStartPosition() - 1),
                    Math.max(0, problem.getEndPosition()));
        }
        return new Formula(text, used, expression, looked.window, looked.timed);
    }

    /** A formula as its parts, for those who write it in another language. Errors as of {@link #read}. */
    public static ASTNode tree(String text, Collection<String> names) throws FormulaProblem {
        try {
            return read(text, names).expression.getAbstractSyntaxTree();
        } catch (ParseException impossible) {
            throw new IllegalStateException("A formula was read and is none: " + text, impossible);
        }
    }

    private static final class Looked {
        private Duration window = Duration.ZERO;
        private boolean timed;
    }

    /** Checks what the library would notice at the first evaluation only. */
    private static void look(ASTNode node, Set<String> known, Set<String> used, Looked looked) throws FormulaProblem {
        Token token = node.getToken();
        if (token.getType() == Token.TokenType.VARIABLE_OR_CONSTANT && !FormulaFunctions.isConstant(token.getValue())) {
            if (!known.contains(token.getValue())) {
                throw at(
                        token,
                        "There is no input named " + token.getValue() + "."
                                + (known.isEmpty()
                                        ? " Add it as an input first."
                                        : " The inputs are: " + String.join(", ", known) + "."));
            }
            used.add(token.getValue());
        }
        if (token.getType() == Token.TokenType.FUNCTION) {
            String name = token.getValue().toLowerCase(Locale.ROOT);
            if (FormulaFunctions.LOOKS_BACK.contains(name)) {
                Token first = node.getParameters().get(0).getToken();
                if (first.getType() != Token.TokenType.VARIABLE_OR_CONSTANT || !known.contains(first.getValue())) {
                    throw at(
                            first,
                            name + " looks back at an input, so its first part is the name of one, not a computation.");
                }
                looked.timed |= !FormulaFunctions.TIMELESS.contains(name);
            }
            if (FormulaFunctions.WINDOWS.contains(name)) {
                Duration window = window(node.getParameters().get(1).getToken());
                looked.window = looked.window.compareTo(window) < 0 ? window : looked.window;
            }
            if (name.equals("convert")) {
                convertible(node);
            }
        }
        for (ASTNode part : node.getParameters()) {
            look(part, known, used, looked);
        }
    }

    private static Duration window(Token token) throws FormulaProblem {
        if (token.getType() != Token.TokenType.STRING_LITERAL) {
            throw at(token, "A window is written in quotation marks, such as \"10 min\".");
        }
        try {
            Duration window = PeriodText.read(token.getValue());
            if (window.compareTo(Duration.ofHours(24)) > 0) {
                throw at(token, "A window reaches back 24 h at most.");
            }
            return window;
        } catch (IllegalArgumentException problem) {
            throw at(token, problem.getMessage());
        }
    }

    private static void convertible(ASTNode node) throws FormulaProblem {
        Token from = node.getParameters().get(1).getToken();
        Token to = node.getParameters().get(2).getToken();
        if (from.getType() == Token.TokenType.STRING_LITERAL && to.getType() == Token.TokenType.STRING_LITERAL) {
            String problem = Units.problem(from.getValue(), to.getValue());
            if (!problem.isEmpty()) {
                throw at(Units.problem(from.getValue(), from.getValue()).isEmpty() ? to : from, problem);
            }
        }
    }

    private static FormulaProblem at(Token token, String sentence) {
        int from = Math.max(0, token.getStartPosition() - 1);
        return new FormulaProblem(sentence, from, from + token.getValue().length());
    }

    private static String words(ParseException problem, String text) {
        String message = problem.getMessage() == null ? "It cannot be read" : problem.getMessage();
        message = message.replace("Closing brace not found", "A bracket is opened but not closed")
                .replace("Unexpected closing brace", "A bracket is closed that was not opened")
                .replace("Empty expression", "Nothing stands here")
                .replace("Missing second operand for operator", "Something is missing after the operator")
                .replace("Missing operator", "An operator is missing, such as + or *")
                .replace("Undefined operator", "There is no operator")
                .replace("Undefined function", "There is no function named")
                .replace("Not enough parameters for function", "Too few parts in the brackets")
                .replace("Too many parameters for function", "Too many parts in the brackets")
                .replace("Too many operands", "An operator is missing between two parts");
        String place = problem.getTokenString() == null
                        || problem.getTokenString().equals(text)
                        || message.contains(problem.getTokenString())
                ? ""
                : ", at " + problem.getTokenString();
        return message + place + ".";
    }

    public String text() {
        return text;
    }

    /** The inputs it names. */
    public Set<String> inputs() {
        return inputs;
    }

    /** How far back it looks; zero where it does not look at a window. */
    public Duration longestWindow() {
        return longestWindow;
    }

    /** Whether its result changes as time goes by, with no input changing. */
    public boolean timed() {
        return timed;
    }

    /**
     * Computes.
     *
     * @param known what is known of each input, by its name
     * @param kind  the sort of value wanted; a number for a text is written out, what does not fit is bad
     */
    public TagValue evaluate(Map<String, InputHistory> known, DataKind kind, Instant now) {
        UsedInputs used = new UsedInputs(known, now);
        try {
            EvaluationValue result = FormulaFunctions.with(used, expression::evaluate);
            Instant sourceTime = used.newest();
            return value(result, kind)
                    .map(value -> new TagValue(Optional.of(value), used.worst(), sourceTime, now))
                    .orElseGet(() -> bad("the result is not a " + kind.words(), sourceTime, now));
        } catch (UsedInputs.NoValue missing) {
            return new TagValue(Optional.empty(), missing.quality(), used.newest(), now);
        } catch (BaseException | RuntimeException | StackOverflowError problem) {
            // What people typed is computed here and nowhere else: whatever it throws is a bad value with its reason.
            return bad(reason(problem), used.newest(), now);
        }
    }

    /** Everything in a text that might be the name of an input. */
    public static Set<String> words(String text) {
        Set<String> words = new TreeSet<>(String.CASE_INSENSITIVE_ORDER);
        Matcher word = WORD.matcher(text);
        while (word.find()) {
            words.add(word.group());
        }
        return words;
    }

    /**
     * Computes from values that are there, whatever sort of value comes of it.
     *
     * @param values by name; those that are nothing are left out
     * @return Boolean, BigDecimal, String or Instant
     * @throws FormulaProblem with the reason, where nothing comes of it
     */
    public Object result(Map<String, Object> values, Instant now) throws FormulaProblem {
        Map<String, InputHistory> known = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
        values.forEach((name, value) -> {
            InputHistory history = new InputHistory(Duration.ZERO);
            history.take(TagValue.good(value, now), now);
            known.put(name, history);
        });
        UsedInputs used = new UsedInputs(known, now);
        String why;
        try {
            EvaluationValue result = FormulaFunctions.with(used, expression::evaluate);
            if (result.isNumberValue() && !FormulaFunctions.boundless(result.getNumberValue())) {
                return result.getNumberValue();
            }
            if (result.isBooleanValue()) {
                return result.getBooleanValue();
            }
            if (result.isDateTimeValue()) {
                return result.getDateTimeValue();
            }
            if (result.isStringValue()) {
                return result.getStringValue();
            }
            why = "nothing comes of it";
        } catch (UsedInputs.NoValue missing) {
            why = missing.getMessage();
        } catch (BaseException | RuntimeException | StackOverflowError problem) {
            why = reason(problem);
        }
        throw new FormulaProblem(text + " cannot be computed: " + why + ".", 0, text.length());
    }

    private static String reason(Throwable problem) {
        if (problem.getMessage() == null || problem.getMessage().isBlank()) {
            return "it cannot be computed (" + problem.getClass().getSimpleName() + ")";
        }
        String message = problem.getMessage();
        if (problem instanceof EvaluationException && message.contains("Unsupported data types")) {
            return "a text or yes/no stands where a number is needed";
        }
        return message.substring(0, 1).toLowerCase(Locale.ROOT) + message.substring(1);
    }

    private static TagValue bad(String why, Instant sourceTime, Instant now) {
        return new TagValue(Optional.empty(), Quality.bad(BAD_CONFIGURATION, why), sourceTime, now);
    }

    private static Optional<Object> value(EvaluationValue result, DataKind kind) {
        if (result.isNullValue() || result.isNumberValue() && FormulaFunctions.boundless(result.getNumberValue())) {
            return Optional.empty();
        }
        return switch (kind) {
            case BOOLEAN ->
                result.isBooleanValue()
                        ? Optional.of(result.getBooleanValue())
                        : result.isNumberValue()
                                ? Optional.of(result.getNumberValue().signum() != 0)
                                : Optional.empty();
            case INTEGER ->
                number(result)
                        .map(number -> number.setScale(0, RoundingMode.HALF_UP))
                        .filter(number -> number.unscaledValue().bitLength() < 64)
                        .map(BigDecimal::longValue);
            case UNSIGNED ->
                number(result)
                        .map(number -> number.setScale(0, RoundingMode.HALF_UP))
                        .filter(number ->
                                number.signum() >= 0 && number.unscaledValue().bitLength() <= 64)
                        .map(number -> number.unscaledValue().bitLength() < 64 ? (Object) number.longValue() : number);
            case NUMBER ->
                number(result)
                        .map(BigDecimal::doubleValue)
                        .filter(Double::isFinite)
                        .map(number -> number);
            case TIME -> result.isDateTimeValue() ? Optional.of(result.getDateTimeValue()) : Optional.empty();
            case TEXT, OTHER ->
                Optional.of(
                        result.isNumberValue()
                                ? FormulaFunctions.plain(result.getNumberValue())
                                : result.getStringValue());
        };
    }

    private static Optional<BigDecimal> number(EvaluationValue result) {
        return result.isNumberValue()
                ? Optional.of(result.getNumberValue())
                : result.isBooleanValue()
                        ? Optional.of(result.getBooleanValue() ? BigDecimal.ONE : BigDecimal.ZERO)
                        : Optional.empty();
    }
}
