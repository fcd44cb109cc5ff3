package dachshund.web.query;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.query.TagHistory.Calculation;
import java.math.BigDecimal;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Stream;

/** What can be computed of values, as forms have it, and back. */
public final class Calculations {

    private static final String PART13 = "part13:";

    /** What can be computed, as forms have it and in words; with a number beside it, where it needs one. */
    public record Offer(String key, String words, String with) {}

    /**
     * What is computed, as the form has it.
     *
     * @param value the number beside it
     * @param asks  what that number means; empty where there is none
     */
    public record Chosen(String key, String value, String asks) {}

    public static final List<Offer> OFFERS = Stream.concat(
                    Stream.of(
                            new Offer("increase", "increase of a counter", "rolls over at (empty: is reset)"),
                            new Offer("percentile", "percentile", "percent"),
                            new Offer("above", "seconds above a limit", "limit")),
                    Arrays.stream(Aggregate.values()).map(each -> new Offer(PART13 + each.part13(), each.words(), "")))
            .toList();

    private Calculations() {}

    public static Chosen chosen(Calculation of) {
        return new Chosen(key(of), with(of), asked(key(of)));
    }

    private static String key(Calculation of) {
        if (of instanceof Calculation.OfPart13 part13) {
            return PART13 + part13.aggregate().part13();
        }
        return of instanceof Calculation.Increase
                ? "increase"
                : of instanceof Calculation.OfPercent ? "percentile" : "above";
    }

    /** The number beside it. */
    private static String with(Calculation of) {
        double number = of instanceof Calculation.Increase increase
                ? increase.rollsOver()
                : of instanceof Calculation.OfPercent percent
                        ? percent.percent()
                        : of instanceof Calculation.TimeAbove above ? above.limit() : 0;
        return of instanceof Calculation.OfPart13 || of instanceof Calculation.Increase && number == 0
                ? ""
                : BigDecimal.valueOf(number).stripTrailingZeros().toPlainString();
    }

    /** What the number beside it means. */
    private static String asked(String key) {
        return OFFERS.stream()
                .filter(each -> each.key().equals(key))
                .map(Offer::with)
                .findFirst()
                .orElse("");
    }

    /**
     * @param key  of what is computed
     * @param with the number beside it, as typed; empty for what is usual
     * @throws IllegalArgumentException with a sentence
     */
    public static Calculation read(String key, String with) {
        if (key.startsWith(PART13)) {
            return new Calculation.OfPart13(Aggregate.read(key.substring(PART13.length()))
                    .orElseThrow(() -> new IllegalArgumentException("There is no aggregate " + key + ".")));
        }
        return switch (key) {
            case "increase" -> new Calculation.Increase(with.isEmpty() ? 0 : number(with, 0, Double.MAX_VALUE));
            case "percentile" -> new Calculation.OfPercent(with.isEmpty() ? 95 : number(with, 0, 100));
            case "above" ->
                new Calculation.TimeAbove(with.isEmpty() ? 0 : number(with, -Double.MAX_VALUE, Double.MAX_VALUE));
            default -> throw new IllegalArgumentException("\"" + key + "\" is nothing that can be computed of values.");
        };
    }

    private static double number(String typed, double least, double most) {
        try {
            double number = new BigDecimal(typed).doubleValue();
            if (number >= least && number <= most) {
                return number;
            }
        } catch (NumberFormatException none) {
            // the sentence below
        }
        throw new IllegalArgumentException("\"" + typed + "\" is no number for it"
                + (most == 100 ? ": a percentile is from 0 to 100." : ". Write it with a point, such as 12.5."));
    }
}
