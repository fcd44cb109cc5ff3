package dachshund.web.row;

import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Treatment;
import dachshund.core.tag.Range;
import dachshund.office.tag.TagFinder;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.TreeMap;

/** A column as the fields of its form, and back. */
public final class ColumnForm {

    /** Characters of a column that holds words for codes, where nobody said another type. */
    private static final int WORD = 60;

    private static final int LONGEST_HEADING = 120;

    private final Map<String, String> form;
    private final Map<String, String> problems = new TreeMap<>();

    public ColumnForm(Map<String, String> form) {
        this.form = form;
    }

    /** What the fields hold for a column. */
    public static Map<String, String> values(Column column) {
        Map<String, String> values = new TreeMap<>();
        values.put("name", column.name());
        values.put("type", column.type().words());
        values.put("heading", column.heading());
        Treatment treatment = column.treatment();
        values.put(
                "factor",
                treatment.factor().compareTo(BigDecimal.ONE) == 0
                        ? ""
                        : treatment.factor().toPlainString());
        values.put(
                "offset",
                treatment.offset().signum() == 0 ? "" : treatment.offset().toPlainString());
        values.put("low", treatment.clamp().map(range -> plain(range.low())).orElse(""));
        values.put("high", treatment.clamp().map(range -> plain(range.high())).orElse(""));
        values.put(
                "decimals",
                treatment.decimals().isPresent()
                        ? Integer.toString(treatment.decimals().getAsInt())
                        : "");
        values.put(
                "words",
                new TreeMap<>(treatment.words())
                        .entrySet().stream()
                                .map(word -> word.getKey() + "=" + word.getValue())
                                .reduce((a, b) -> a + "\n" + b)
                                .orElse(""));
        column.from().form().forEach(field -> values.put(field.name(), field.value()));
        return values;
    }

    /** An end that keeps nothing out is an empty field. */
    private static String plain(double number) {
        return Math.abs(number) == Double.MAX_VALUE
                ? ""
                : BigDecimal.valueOf(number).stripTrailingZeros().toPlainString();
    }

    /** The column that the form makes of the one before; look at {@link #problems} first. */
    public Column column(Column before, Layout layout, List<String> tags) {
        String typed = form.getOrDefault("type", "");
        SqlType type = before.type();
        try {
            type = typed.isBlank() ? before.type() : SqlType.read(typed);
        } catch (IllegalArgumentException problem) {
            problems.put("type", problem.getMessage());
        }
        ColumnSource from =
                before.from().fed(tags.stream().map(TagFinder::ref).toList()).filled(form, layout);
        if (!from.equals(before.from()) && typed.equals(before.type().words())) {
            type = from.type().orElse(type);
        }
        boolean fixed = before.isAutoNumber() || before.isRowId();
        Treatment treatment = treatment();
        if (!treatment.words().isEmpty()
                && before.treatment().words().isEmpty()
                && typed.equals(before.type().words())
                && type.family() != SqlType.Family.TEXT
                && type.family() != SqlType.Family.JSON) {
            type = SqlType.text(WORD);
        }
        return new Column(
                form.getOrDefault("name", before.name()).strip(),
                type,
                from,
                fixed ? before.required() : form.containsKey("required"),
                BadQuality.valueOf(form.getOrDefault("badQuality", "WRITE_NULL")),
                treatment,
                heading(before));
    }

    /** In one line: it is one in a file. */
    private String heading(Column before) {
        String typed = form.getOrDefault("heading", before.heading()).strip();
        if (typed.length() > LONGEST_HEADING || typed.chars().anyMatch(Character::isISOControl)) {
            problems.put("heading", "A heading is one line of " + LONGEST_HEADING + " letters at most.");
            return before.heading();
        }
        return typed;
    }

    /** Sentences by field. */
    public Map<String, String> problems() {
        return problems;
    }

    private Treatment treatment() {
        BigDecimal factor = number("factor", BigDecimal.ONE);
        BigDecimal offset = number("offset", BigDecimal.ZERO);
        Optional<Range> clamp = clamp();
        OptionalInt decimals = OptionalInt.empty();
        String digits = text("decimals");
        if (!digits.isEmpty()) {
            if (digits.matches("\\d|10")) {
                decimals = OptionalInt.of(Integer.parseInt(digits));
            } else {
                problems.put("decimals", "Round to 0 to 10 digits after the point.");
            }
        }
        try {
            return new Treatment(factor, offset, clamp, decimals, words());
        } catch (IllegalArgumentException problem) {
            problems.put("factor", problem.getMessage());
            return Treatment.NONE;
        }
    }

    private String text(String field) {
        return form.getOrDefault(field, "").strip();
    }

    private BigDecimal number(String field, BigDecimal unless) {
        try {
            return text(field).isEmpty() ? unless : new BigDecimal(text(field).replace(',', '.'));
        } catch (NumberFormatException notANumber) {
            problems.put(field, "This is not a number. Write it such as 0.001.");
            return unless;
        }
    }

    private Optional<Range> clamp() {
        if (text("low").isEmpty() && text("high").isEmpty()) {
            return Optional.empty();
        }
        double low = number("low", BigDecimal.valueOf(-Double.MAX_VALUE)).doubleValue();
        double high = number("high", BigDecimal.valueOf(Double.MAX_VALUE)).doubleValue();
        try {
            return Optional.of(new Range(low, high));
        } catch (IllegalArgumentException problem) {
            problems.put("low", problem.getMessage());
            return Optional.empty();
        }
    }

    private Map<String, String> words() {
        Map<String, String> words = new LinkedHashMap<>();
        List<String> wrong = new ArrayList<>();
        for (String line : text("words")
                .lines()
                .map(String::strip)
                .filter(line -> !line.isEmpty())
                .toList()) {
            int equals = line.indexOf('=');
            if (equals < 1
                    || words.putIfAbsent(
                                    line.substring(0, equals).strip(),
                                    line.substring(equals + 1).strip())
                            != null) {
                wrong.add(line);
            }
        }
        if (!wrong.isEmpty()) {
            problems.put("words", "One line a code, each once, such as 1=run. This is not: " + wrong.get(0));
        }
        return words;
    }
}
