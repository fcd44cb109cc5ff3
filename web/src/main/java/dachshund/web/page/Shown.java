package dachshund.web.page;

import dachshund.core.row.Conversion;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import java.math.BigDecimal;
import java.math.MathContext;
import java.math.RoundingMode;
import java.text.NumberFormat;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import org.springframework.stereotype.Component;

/** Values as pages show them. */
@Component("shown")
public class Shown {

    private static final List<String> BYTES = List.of("B", "kB", "MB", "GB", "TB");
    private static final double KILO = 1000;

    private static final double MOST_PLAIN = 1e15;
    private static final double LEAST_PLAIN = 0.0005;
    private static final MathContext SIX_DIGITS = new MathContext(6);

    private final Times times;

    Shown(Times times) {
        this.times = times;
    }

    /** A tag's value: numbers with a fixed number of digits, so that a changing column stands still. */
    public String value(TagValue value) {
        return value.value().map(this::cell).orElse("–");
    }

    /** A tag's value with the decimals that are wished for, and with the source's own word for it. */
    public String value(TagValue value, TagInfo tag) {
        if (tag.decimals().isPresent()
                && value.value().orElse(null) instanceof Number number
                && Math.abs(number.doubleValue()) < MOST_PLAIN) {
            return new BigDecimal(number.toString())
                    .setScale(tag.decimals().getAsInt(), RoundingMode.HALF_UP)
                    .toPlainString();
        }
        return value.value()
                .flatMap(each -> tag.state(Conversion.plain(each)))
                .map(word -> value(value) + " (" + word + ")")
                .orElseGet(() -> value(value));
    }

    /** A cell of a row; NULL as a word. */
    public String cell(Object cell) {
        if (cell == null) {
            return "NULL";
        }
        if (cell instanceof Double || cell instanceof Float) {
            return number(((Number) cell).doubleValue());
        }
        if (cell instanceof Instant at) {
            return times.fine(at);
        }
        return Conversion.plain(cell);
    }

    /** With a fixed number of digits; where these would say nothing, or would be many, with a power of ten. */
    private static String number(double number) {
        double size = Math.abs(number);
        if (!Double.isFinite(number)) {
            return Double.toString(number);
        }
        if (size >= MOST_PLAIN || size > 0 && size < LEAST_PLAIN) {
            return new BigDecimal(number, SIX_DIGITS).stripTrailingZeros().toString();
        }
        return BigDecimal.valueOf(number)
                .setScale(size >= 1000 ? 1 : 3, RoundingMode.HALF_UP)
                .toPlainString();
    }

    /** A whole number with separators. */
    public String count(long number) {
        return NumberFormat.getIntegerInstance(Locale.UK).format(number);
    }

    /** An amount of data: 640 B, 12 kB, 3.4 MB; kilo is 1,000 (IEC 80000-13). */
    public String bytes(long bytes) {
        double amount = bytes;
        int unit = 0;
        while (amount >= KILO && unit < BYTES.size() - 1) {
            amount /= KILO;
            unit++;
        }
        return String.format(Locale.UK, unit == 0 || amount >= 10 ? "%.0f " : "%.1f ", amount) + BYTES.get(unit);
    }

    /** A count with its noun: 1 row, 2 rows. */
    public String count(long number, String noun) {
        return count(number) + " " + noun + (number == 1 ? "" : "s");
    }
}
