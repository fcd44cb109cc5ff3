package dachshund.core.destination;

import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.Conversion;
import dachshund.core.row.Row;
import dachshund.core.row.RowFacts;
import dachshund.core.shift.Worked;
import java.time.ZonedDateTime;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * The name of a table, file, database or destination, in which {@code {…}} stands for something of the row: a part of its record time in plant time
 * ({@code {yyyy} {MM} {dd} {HH} {mm}}), the value of one of its columns, or {@code {shift} {shift date} {equipment} {recorder} {site}}.
 * A column named equipment says more than the recorder does: where each tag has its row, it is that tag's equipment.
 */
public final class NamePattern {

    private static final Pattern PART = Pattern.compile("\\{([^{}]*)}");
    private static final List<String> TIMES = List.of("yyyy", "MM", "dd", "HH", "mm");
    private static final List<String> FACTS = List.of("shift", "shift date", "equipment", "recorder", "site");
    private static final int LONGEST_PART = 60;
    private static final String NOTHING = "none";

    private final String text;
    private final boolean dynamic;

    public NamePattern(String text) {
        this.text = text;
        this.dynamic = PART.matcher(text).find();
    }

    /** Whether rows go to several places by it. */
    public boolean dynamic() {
        return dynamic;
    }

    /** Whether some row could give this name. */
    public boolean mayBe(String name) {
        StringBuilder all = new StringBuilder();
        Matcher parts = PART.matcher(text);
        int from = 0;
        while (parts.find()) {
            all.append(Pattern.quote(text.substring(from, parts.start()))).append(".+");
            from = parts.end();
        }
        return name.matches(all.append(Pattern.quote(text.substring(from))).toString());
    }

    /** A sentence where a part stands for nothing in the layout; empty where all do. */
    public Optional<String> problem(Layout layout) {
        Matcher parts = PART.matcher(text);
        while (parts.find()) {
            String part = parts.group(1);
            if (!TIMES.contains(part)
                    && !FACTS.contains(part)
                    && layout.written().stream()
                            .noneMatch(column -> column.name().equalsIgnoreCase(part))) {
                return Optional.of("{" + part + "} stands for nothing. Use " + wrapped(TIMES) + ", " + wrapped(FACTS)
                        + " or the name of a column.");
            }
        }
        String rest = PART.matcher(text).replaceAll("");
        return rest.contains("{") || rest.contains("}")
                ? Optional.of("A bracket { is not closed, or } was not opened.")
                : Optional.empty();
    }

    private static String wrapped(List<String> parts) {
        return String.join(", ", parts.stream().map(part -> "{" + part + "}").toList());
    }

    /** The name for a row. What a part brings along is made safe: letters, digits, spaces and . _ - only, 60 characters at most. */
    public String of(Row row, Layout layout, RowFacts facts) {
        if (!dynamic) {
            return text;
        }
        ZonedDateTime at = row.recordTime().atZone(facts.zone());
        Optional<Worked> shift = text.contains("{shift") ? facts.shift(row.recordTime()) : Optional.empty();
        return PART.matcher(text)
                .replaceAll(
                        match -> Matcher.quoteReplacement(safe(value(match.group(1), row, layout, facts, at, shift))));
    }

    private static String value(
            String part, Row row, Layout layout, RowFacts facts, ZonedDateTime at, Optional<Worked> shift) {
        if (TIMES.contains(part)) {
            return DateTimeFormatter.ofPattern(part.replace('y', 'u'), Locale.ROOT)
                    .format(at);
        }
        return cell(part, row, layout.written()).orElseGet(() -> switch (part) {
            case "shift" -> shift.map(Worked::shift).orElse("");
            case "shift date" -> shift.map(worked -> worked.date().toString()).orElse("");
            case "equipment" -> facts.equipmentName();
            case "recorder" -> facts.recorder();
            case "site" -> facts.site();
            default -> "";
        });
    }

    private static Optional<String> cell(String part, Row row, List<Column> written) {
        for (int i = 0; i < written.size(); i++) {
            if (written.get(i).name().equalsIgnoreCase(part) && row.cells()[i] != null) {
                return Optional.of(Conversion.plain(row.cells()[i]));
            }
        }
        return Optional.empty();
    }

    /** A value as part of a name: letters, digits, spaces and . _ - only, 60 characters at most. */
    public static String safe(String value) {
        String safe = value.replaceAll("[^\\p{L}\\p{N} ._-]", "_").replaceAll("^[ .]+|[ .]+$", "");
        return safe.isEmpty() ? NOTHING : safe.substring(0, Math.min(LONGEST_PART, safe.length()));
    }
}
