package dachshund.core.layout;

import dachshund.core.tag.Range;
import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.TreeMap;
import java.util.stream.Collectors;

/**
 * What is done to a value before it is written, in this order: scaled (times {@code factor} plus {@code offset}), clamped,
 * rounded half up, and its code turned into a word. Computed in exact decimals.
 *
 * @param clamp    a value beyond an end becomes that end; an end at the largest double keeps nothing out
 * @param decimals digits after the point, 0 to 10
 * @param words    words by code; a code without a word is written as it is
 */
public record Treatment(
        BigDecimal factor, BigDecimal offset, Optional<Range> clamp, OptionalInt decimals, Map<String, String> words) {

    /** Nothing is done. */
    public static final Treatment NONE =
            new Treatment(BigDecimal.ONE, BigDecimal.ZERO, Optional.empty(), OptionalInt.empty(), Map.of());

    public Treatment {
        if (decimals.isPresent() && (decimals.getAsInt() < 0 || decimals.getAsInt() > 10)) {
            throw new IllegalArgumentException("Round to 0 to 10 digits after the point.");
        }
        if (factor.signum() == 0) {
            throw new IllegalArgumentException(
                    "A factor of 0 would make every value the same. Use a constant for that.");
        }
        words = Map.copyOf(words);
        factor = plain(factor);
        offset = plain(offset);
    }

    /** One way to write one number, so that equal treatments are equal. */
    private static BigDecimal plain(BigDecimal number) {
        BigDecimal stripped = number.stripTrailingZeros();
        return stripped.scale() < 0 ? stripped.setScale(0) : stripped;
    }

    public boolean none() {
        return !arithmetic() && words.isEmpty();
    }

    private boolean arithmetic() {
        return factor.compareTo(BigDecimal.ONE) != 0
                || offset.signum() != 0
                || clamp.isPresent()
                || decimals.isPresent();
    }

    /** Whether it needs a number. */
    public boolean needsNumber() {
        return arithmetic();
    }

    /** Scales, clamps and rounds. */
    public BigDecimal number(BigDecimal value) {
        BigDecimal result = value.multiply(factor).add(offset);
        if (clamp.isPresent()) {
            result = result.max(BigDecimal.valueOf(clamp.get().low()))
                    .min(BigDecimal.valueOf(clamp.get().high()));
        }
        return decimals.isPresent() ? result.setScale(decimals.getAsInt(), RoundingMode.HALF_UP) : result;
    }

    private static String kept(Range range) {
        if (range.low() == -Double.MAX_VALUE) {
            return ", not above " + Range.plain(range.high());
        }
        return range.high() == Double.MAX_VALUE
                ? ", not below " + Range.plain(range.low())
                : ", kept within " + range.words();
    }

    /** In words: × 0.001, clamped to 0 to 250, rounded to 1 digit; empty for none. */
    public String sentence() {
        StringBuilder text = new StringBuilder();
        if (factor.compareTo(BigDecimal.ONE) != 0) {
            text.append(", × ").append(factor.toPlainString());
        }
        if (offset.signum() != 0) {
            text.append(offset.signum() > 0 ? ", + " : ", − ")
                    .append(offset.abs().toPlainString());
        }
        clamp.ifPresent(range -> text.append(kept(range)));
        decimals.ifPresent(
                digits -> text.append(", rounded to ").append(digits).append(digits == 1 ? " digit" : " digits"));
        if (!words.isEmpty()) {
            text.append(", ")
                    .append(new TreeMap<>(words)
                            .entrySet().stream()
                                    .map(word -> word.getKey() + " is " + word.getValue())
                                    .collect(Collectors.joining(", ")));
        }
        return text.isEmpty() ? "" : text.substring(2);
    }
}
