package dachshund.core.query;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.definition.Named;
import dachshund.core.keep.Selection;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The history of tags, as a query.
 *
 * @param which tags; new ones that fit are asked as well
 * @param per   of even times and aggregates: a row for each such period; empty for a row each {@code every}
 * @param every longer than nothing
 * @param of    what is computed of each period, where values are aggregated
 * @param wide  a row a time, and a column a tag; else a row a tag and time
 */
public record TagHistory(
        Selection which, Mode mode, Optional<Per> per, Duration every, List<Calculation> of, boolean wide)
        implements QueryBody {

    /** More tags are no table that anybody reads. */
    public static final int MOST_TAGS = 200;

    /** Which values are wanted; the same names everywhere. */
    public enum Mode {
        EVERY("every value"),
        EVEN("at even times"),
        AGGREGATED("aggregated"),
        OUTLINE("outline"),
        LATEST("latest");

        private final String words;

        Mode(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }

        /** Whether it is asked for one period after the other. */
        public boolean periodic() {
            return this == EVEN || this == AGGREGATED;
        }

        /** @throws IllegalArgumentException with a sentence, where there is none of that name */
        public static Mode named(String name) {
            return Stream.of(values())
                    .filter(each -> each.name().equals(name))
                    .findFirst()
                    .orElseThrow(() -> new IllegalArgumentException("\"" + name + "\" is no way to ask for values."));
        }
    }

    /** What is computed of the values of a period. */
    public sealed interface Calculation {

        /** By their names in documents. */
        java.util.Map<String, Class<?>> DOCUMENTS = java.util.Map.of(
                "aggregate", OfPart13.class,
                "increase", Increase.class,
                "percentile", OfPercent.class,
                "above", TimeAbove.class);

        /** What people call it. */
        String words();

        /** What a column of it is called. */
        String column();

        /** As OPC 10000-13 defines it. */
        record OfPart13(Aggregate aggregate) implements Calculation {
            @Override
            public String words() {
                return aggregate.words();
            }

            @Override
            public String column() {
                return aggregate.words().replaceAll("[^a-z]+", "_");
            }
        }

        /**
         * By how much a counter rises.
         *
         * @param rollsOver the first number that it never shows; 0 where it only begins anew when it is reset
         */
        record Increase(double rollsOver) implements Calculation {
            @Override
            public String words() {
                return "increase of a counter"
                        + (rollsOver > 0 ? " that rolls over at " + PeriodNumbers.plain(rollsOver) : "");
            }

            @Override
            public String column() {
                return "increase";
            }
        }

        /** @param percent 0 to 100 */
        record OfPercent(double percent) implements Calculation {
            @Override
            public String words() {
                return "percentile " + PeriodNumbers.plain(percent);
            }

            @Override
            public String column() {
                return "percentile_" + PeriodNumbers.plain(percent).replace('.', '_');
            }
        }

        /** Seconds above a limit. */
        record TimeAbove(double limit) implements Calculation {
            @Override
            public String words() {
                return "seconds above " + PeriodNumbers.plain(limit);
            }

            @Override
            public String column() {
                return "seconds_above";
            }
        }
    }

    /** Numbers in words. */
    private static final class PeriodNumbers {
        static String plain(double number) {
            return java.math.BigDecimal.valueOf(number).stripTrailingZeros().toPlainString();
        }
    }

    public TagHistory {
        of = List.copyOf(of);
        if (every.isNegative() || every.isZero()) {
            throw new IllegalArgumentException("The time between two rows is longer than nothing.");
        }
    }

    /** The same of other tags. */
    public TagHistory about(Selection others) {
        return new TagHistory(others, mode, per, every, of, wide);
    }

    @Override
    public Set<String> things() {
        return Stream.of(which.source(), which.equipmentClass())
                .filter(id -> !id.isEmpty())
                .collect(Collectors.toSet());
    }

    @Override
    public Set<TagRef> tags() {
        return new LinkedHashSet<>(which.ticked());
    }

    @Override
    public List<String> names() {
        return mode == Mode.LATEST ? List.of() : List.of("from", "to");
    }

    @Override
    public String words(Named named) {
        List<String> parts = new ArrayList<>();
        parts.add(which.ticked().stream().map(named::tag).collect(Collectors.joining(", ")));
        if (which.byTerms()) {
            parts.add("tags"
                    + (which.source().isEmpty() ? "" : " of " + named.name(which.source()))
                    + (which.folder().isEmpty() ? "" : " in " + which.folder())
                    + (which.equipmentClass().isEmpty()
                            ? ""
                            : " of equipment of the class " + named.name(which.equipmentClass()))
                    + (which.words().isEmpty() ? "" : " with the words \"" + which.words() + "\""));
        }
        parts.add(mode.words()
                + (mode == Mode.AGGREGATED
                        ? ": " + of.stream().map(Calculation::words).collect(Collectors.joining(", "))
                        : ""));
        if (mode.periodic()) {
            parts.add("per " + per.map(Per::words).orElse(PeriodText.write(every)));
        }
        parts.add(wide ? "a column a tag" : "a row a tag and time");
        return parts.stream().filter(each -> !each.isEmpty()).collect(Collectors.joining(" · "));
    }
}
