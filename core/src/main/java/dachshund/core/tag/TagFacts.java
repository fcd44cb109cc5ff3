package dachshund.core.tag;

import dachshund.core.time.PeriodText;
import java.time.Duration;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Facts of a tag as a person types them. Each reader throws an IllegalArgumentException with a sentence. */
public final class TagFacts {

    private static final String NUMBER = "([-+]?[0-9]+(?:\\.[0-9]+)?(?:[eE][-+]?[0-9]+)?)";
    private static final Pattern RANGE = Pattern.compile(NUMBER + "\\s*(?:to|\\.\\.|;)\\s*" + NUMBER);

    private TagFacts() {}

    /** "0 to 250"; empty for none. */
    public static Optional<Range> range(String text) {
        if (text.isBlank()) {
            return Optional.empty();
        }
        Matcher matcher = RANGE.matcher(text.strip());
        if (!matcher.matches()) {
            throw new IllegalArgumentException("A range is written like 0 to 250.");
        }
        return Optional.of(new Range(Double.parseDouble(matcher.group(1)), Double.parseDouble(matcher.group(2))));
    }

    /** 0 to 10; empty for none. */
    public static OptionalInt decimals(String text) {
        if (text.isBlank()) {
            return OptionalInt.empty();
        }
        if (!text.strip().matches("[0-9]|10")) {
            throw new IllegalArgumentException("Decimals are a whole number from 0 to 10.");
        }
        return OptionalInt.of(Integer.parseInt(text.strip()));
    }

    /** "5 min"; empty for never. */
    public static Optional<Duration> changesWithin(String text) {
        return text.isBlank() ? Optional.empty() : Optional.of(PeriodText.read(text));
    }

    /** Words separated by commas, each once. */
    public static List<String> labels(String text) {
        List<String> labels = Arrays.stream(text.split("[,;]"))
                .map(String::strip)
                .filter(label -> !label.isEmpty())
                .distinct()
                .toList();
        if (labels.stream().anyMatch(label -> label.length() > 60)) {
            throw new IllegalArgumentException("A label has up to 60 characters.");
        }
        return labels;
    }

    /** The kind that a word names, by its words or its constant. */
    public static DataKind kind(String text) {
        return Arrays.stream(DataKind.values())
                .filter(kind -> kind.name().equalsIgnoreCase(text.strip())
                        || kind.words().equalsIgnoreCase(text.strip()))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("The kind is one of: "
                        + String.join(
                                ", ",
                                Arrays.stream(DataKind.values())
                                        .map(DataKind::words)
                                        .toList()) + "."));
    }
}
