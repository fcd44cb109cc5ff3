package dachshund.web.plant;

import dachshund.core.source.LinkKind;
import dachshund.core.source.SettingField;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagFacts;
import dachshund.core.tag.TagInfo;
import dachshund.core.text.SafeCell;
import dachshund.core.time.PeriodText;
import de.siegmar.fastcsv.reader.CommentStrategy;
import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.FieldMismatchStrategy;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.IOException;
import java.io.StringWriter;
import java.io.UncheckedIOException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;

/** Tags that a person describes: from a form or from CSV (RFC 4180), and out again. */
final class DescribedTags {

    private static final List<String> COMMON = List.of(
            "id", "path", "name", "kind", "unit", "description", "range", "decimals", "changes_within", "labels");
    private static final int MOST_PROBLEMS = 20;

    private DescribedTags() {}

    /** What was read from CSV: tags, or problems with their lines. */
    record Read(List<TagInfo> tags, List<String> problems) {}

    /**
     * The tag that the values of a form or a line describe.
     *
     * @throws IllegalArgumentException with a sentence
     */
    static TagInfo tag(LinkKind kind, String address, Map<String, String> values) {
        String name = value(values, "name");
        if (name.isEmpty() || name.length() > 200) {
            throw new IllegalArgumentException("A tag needs a name of up to 200 characters.");
        }
        Map<String, String> how = new TreeMap<>();
        for (SettingField field : kind.tagFields()) {
            String text = field.form() == SettingField.Form.LINES
                    ? values.getOrDefault(field.name(), "").replace("\r", "").strip()
                    : value(values, field.name());
            String problem = field.check().apply(text);
            if (!problem.isEmpty()) {
                throw new IllegalArgumentException(problem);
            }
            if (!text.isEmpty()) {
                how.put(field.name(), text);
            }
        }
        String sort = value(values, "kind");
        TagInfo tag = new TagInfo(
                address,
                value(values, "path"),
                name,
                sort.isEmpty() ? DataKind.NUMBER : TagFacts.kind(sort),
                value(values, "unit"),
                value(values, "description"),
                false,
                TagFacts.range(value(values, "range")),
                TagFacts.decimals(value(values, "decimals")),
                TagFacts.changesWithin(value(values, "changes_within")),
                TagFacts.labels(value(values, "labels")),
                how,
                Map.of());
        String problem = kind.tagProblem(tag);
        if (!problem.isEmpty()) {
            throw new IllegalArgumentException(problem);
        }
        return kind.described(tag);
    }

    private static String value(Map<String, String> values, String name) {
        return values.getOrDefault(name, "").strip();
    }

    /** The description of a tag as text by column, as {@link #tag} reads it. */
    static Map<String, String> values(LinkKind kind, TagInfo tag) {
        Map<String, String> values = new LinkedHashMap<>();
        values.put("id", tag.address());
        values.put("path", tag.path());
        values.put("name", tag.name());
        values.put("kind", tag.kind().words());
        values.put("unit", tag.unit());
        values.put("description", tag.description());
        values.put("range", tag.facts().get("range"));
        values.put("decimals", tag.facts().get("decimals"));
        values.put("changes_within", tag.changesWithin().map(PeriodText::write).orElse(""));
        values.put("labels", String.join(", ", tag.labels()));
        kind.tagFields().forEach(field -> values.put(field.name(), tag.how().getOrDefault(field.name(), "")));
        return values;
    }

    /** UTF-8 with a byte-order mark, a line a tag. */
    static String csv(LinkKind kind, List<TagInfo> tags) {
        StringWriter text = new StringWriter();
        text.write('\uFEFF');
        try (CsvWriter writer = CsvWriter.builder().build(text)) {
            writer.writeRecord(columns(kind));
            tags.forEach(tag -> writer.writeRecord(values(kind, tag).values().stream()
                    .map(SafeCell::outUnlessNumber)
                    .toList()));
        } catch (IOException impossible) {
            throw new UncheckedIOException(impossible);
        }
        return text.toString();
    }

    private static List<String> columns(LinkKind kind) {
        return Stream.concat(COMMON.stream(), kind.tagFields().stream().map(SettingField::name))
                .toList();
    }

    /**
     * Reads tags from CSV with a header line; separator comma, semicolon or tab. A line whose id or, without an id,
     * whose path and name are known describes that tag anew; other lines are new tags.
     */
    static Read read(LinkKind kind, List<TagInfo> known, String text) {
        List<String> problems = new ArrayList<>();
        Map<String, TagInfo> next = new LinkedHashMap<>();
        known.forEach(tag -> next.put(tag.address(), tag));
        Map<String, String> byName = new HashMap<>();
        known.forEach(tag -> byName.put(tag.fullName(), tag.address()));
        Set<String> read = new HashSet<>();
        String plain = text.startsWith("\uFEFF") ? text.substring(1) : text;
        String header = plain.lines().findFirst().orElse("");
        char separator =
                header.indexOf('\t') >= 0 ? '\t' : header.indexOf(';') >= 0 && header.indexOf(',') < 0 ? ';' : ',';
        try {
            for (NamedCsvRecord line : CsvReader.builder()
                    .fieldSeparator(separator)
                    .commentStrategy(CommentStrategy.NONE)
                    .skipEmptyLines(true)
                    .missingFieldStrategy(FieldMismatchStrategy.IGNORE)
                    .ofNamedCsvRecord(plain)) {
                Map<String, String> values = new HashMap<>();
                line.getFieldsAsMap()
                        .forEach(
                                (name, value) -> values.put(name.strip().toLowerCase(Locale.ROOT), SafeCell.in(value)));
                if (!values.containsKey("name")) {
                    return new Read(
                            List.of(),
                            List.of(
                                    "The first line names the columns, and one of them must be name. Known columns are: "
                                            + String.join(", ", columns(kind)) + "."));
                }
                String full = values.getOrDefault("path", "").strip();
                full = full.isEmpty() ? value(values, "name") : full + " / " + value(values, "name");
                String id = value(values, "id");
                String address = !id.isEmpty() ? id : byName.getOrDefault(full, TagInfo.freeAddress(next.values()));
                try {
                    if (!read.add(id.isEmpty() ? "name " + full : "id " + id) && !full.isBlank()) {
                        throw new IllegalArgumentException("the tag " + full + " stands here twice.");
                    }
                    next.put(address, tag(kind, address, values));
                } catch (IllegalArgumentException problem) {
                    problems.add("Line " + line.getStartingLineNumber() + ", "
                            + (full.isBlank() ? "without a name" : full) + ": " + problem.getMessage());
                }
            }
        } catch (CsvParseException problem) {
            problems.add("This is no CSV: " + problem.getMessage() + ".");
        }
        if (read.isEmpty() && problems.isEmpty()) {
            problems.add("There is no line below the header.");
        }
        int all = problems.size();
        List<String> shown = all > MOST_PROBLEMS ? new ArrayList<>(problems.subList(0, MOST_PROBLEMS)) : problems;
        if (all > MOST_PROBLEMS) {
            shown.add("And " + (all - MOST_PROBLEMS) + " more lines.");
        }
        return new Read(List.copyOf(next.values()), shown);
    }
}
