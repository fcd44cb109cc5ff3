package dachshund.web.row;

import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.ColumnSource.Aspect;
import dachshund.core.layout.Layout;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.text.SafeCell;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.IOException;
import java.io.StringWriter;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.springframework.stereotype.Component;

/**
 * The columns of a layout as CSV (RFC 4180), to be edited in a spreadsheet and brought back. A tag is named by its source and
 * full name, so that a list also works on another installation.
 */
@Component
public class FieldList {

    private static final List<String> HEAD = List.of(
            "name",
            "type",
            "required",
            "key",
            "source",
            "of",
            "bad quality",
            "factor",
            "offset",
            "low",
            "high",
            "decimals",
            "words");
    private static final List<String> TREATMENT = List.of("factor", "offset", "low", "high", "decimals", "words");

    private final Definitions definitions;
    private final TagFinder finder;

    /** @param problems sentences with their line; where there are any, nothing is taken */
    public record Read(Layout layout, List<String> problems) {}

    public FieldList(Definitions definitions, TagFinder finder) {
        this.definitions = definitions;
        this.finder = finder;
    }

    public String write(Layout layout) {
        StringWriter out = new StringWriter();
        out.write('\uFEFF');
        CsvWriter csv = CsvWriter.builder()
                .lineDelimiter(LineDelimiter.CRLF)
                .bufferSize(0)
                .build(out);
        csv.writeRecord(HEAD);
        for (Column column : layout.columns()) {
            Map<String, String> form = ColumnForm.values(column);
            List<String> cells = new ArrayList<>(List.of(
                    column.name(),
                    column.type().words(),
                    column.required() ? "yes" : "",
                    layout.isKey(column.name()) ? "yes" : ""));
            cells.addAll(source(column.from()));
            cells.add(column.badQuality().words());
            TREATMENT.forEach(field -> cells.add(form.get(field).replace("\n", "; ")));
            csv.writeRecord(cells.stream().map(SafeCell::outUnlessNumber).toList());
        }
        return out.toString();
    }

    /** Kind of source, and what of. */
    private List<String> source(ColumnSource from) {
        if (from instanceof ColumnSource.FromTag tag) {
            return List.of(tag.aspect() == Aspect.VALUE ? "tag" : tag.aspect().words(), name(tag.tag()));
        }
        if (from instanceof ColumnSource.Constant constant) {
            return List.of("constant", constant.text());
        }
        if (from instanceof ColumnSource.FromRun run) {
            return List.of("run", run.variable().words());
        }
        if (from instanceof ColumnSource.FromProperty property
                && property.equipment().isEmpty()
                && property.aspect() == Aspect.VALUE) {
            return List.of("property", property.property());
        }
        return from instanceof ColumnSource.AutoNumber ? List.of("auto-number", "") : List.of("as it is", "");
    }

    private String name(TagRef tag) {
        String source = definitions.find(tag.source()).map(each -> each.name()).orElse("?");
        return source + ": " + definitions.tag(tag).map(TagInfo::fullName).orElse(tag.address());
    }

    /** Columns in the order of the lines. What the list cannot say of a column (formulas, documents) stays as it is in the column of that name. */
    public Read read(Layout before, String text) {
        List<String> problems = new ArrayList<>();
        List<Column> columns = new ArrayList<>();
        List<String> keys = new ArrayList<>();
        Map<String, TagRef> tags = new HashMap<>();
        finder.find("", "")
                .forEach(found -> tags.putIfAbsent(
                        (found.source().name() + ": " + found.info().fullName()).toLowerCase(Locale.ROOT),
                        found.ref()));
        String whole = text.startsWith("\uFEFF") ? text.substring(1) : text;
        try (CsvReader<NamedCsvRecord> reader =
                CsvReader.builder().fieldSeparator(separator(whole)).ofNamedCsvRecord(whole)) {
            for (NamedCsvRecord record : reader) {
                Map<String, String> line = new TreeMap<>();
                record.getFieldsAsMap()
                        .forEach((name, value) -> line.put(
                                name.strip().toLowerCase(Locale.ROOT),
                                SafeCell.in(value).strip()));
                line(before, line, tags)
                        .ifPresentOrElse(
                                column -> {
                                    if (columns.stream()
                                            .anyMatch(each -> each.name().equalsIgnoreCase(column.name()))) {
                                        problems.add("Line " + record.getStartingLineNumber()
                                                + ": there are two columns named " + column.name() + ".");
                                    }
                                    columns.add(column);
                                    if (line.getOrDefault("key", "").equalsIgnoreCase("yes")) {
                                        keys.add(column.name());
                                    }
                                },
                                () -> problems.add(
                                        "Line " + record.getStartingLineNumber() + ": " + line.remove("problem")));
            }
        } catch (RuntimeException | IOException notCsv) {
            problems.add("This is no CSV with a header line: " + notCsv.getMessage());
        }
        if (columns.isEmpty() && problems.isEmpty()) {
            problems.add("There is no line. The first has the names " + String.join(", ", HEAD)
                    + "; each further one is a column.");
        }
        return new Read(
                problems.isEmpty() ? before.withColumns(columns).withKeys(keys, before.indexes()) : before, problems);
    }

    private static char separator(String text) {
        String first = text.lines().findFirst().orElse("");
        return first.contains("\t") ? '\t' : first.contains(";") && !first.contains(",") ? ';' : ',';
    }

    /** The column of a line; where it cannot be, the line gets a problem. */
    private Optional<Column> line(Layout before, Map<String, String> line, Map<String, TagRef> tags) {
        String name = line.getOrDefault("name", "");
        if (name.isEmpty()) {
            line.put("problem", "the name is missing.");
            return Optional.empty();
        }
        Optional<ColumnSource> from = from(before, name, line, tags);
        if (from.isEmpty()) {
            return Optional.empty();
        }
        Map<String, String> form = new LinkedHashMap<>(Map.of("name", name, "type", line.getOrDefault("type", "")));
        TREATMENT.forEach(field -> form.put(field, line.getOrDefault(field, "").replace(";", "\n")));
        if (line.getOrDefault("required", "").equalsIgnoreCase("yes")) {
            form.put("required", "true");
        }
        ColumnForm read = new ColumnForm(form);
        Column column =
                read.column(Column.of(name, dachshund.core.layout.SqlType.text(80), from.get()), before, List.of());
        BadQuality quality = java.util.Arrays.stream(BadQuality.values())
                .filter(each -> each.words().equalsIgnoreCase(line.getOrDefault("bad quality", "")))
                .findFirst()
                .orElse(BadQuality.WRITE_NULL);
        if (!read.problems().isEmpty()) {
            line.put(
                    "problem",
                    read.problems().entrySet().stream()
                            .map(problem -> problem.getKey() + ": " + problem.getValue())
                            .findFirst()
                            .orElseThrow());
            return Optional.empty();
        }
        return Optional.of(
                new Column(name, column.type(), from.get(), form.containsKey("required"), quality, column.treatment())
                        .headed(before.column(name).map(Column::heading).orElse("")));
    }

    private Optional<ColumnSource> from(
            Layout before, String name, Map<String, String> line, Map<String, TagRef> tags) {
        String kind = line.getOrDefault("source", "").toLowerCase(Locale.ROOT);
        String of = line.getOrDefault("of", "");
        for (Aspect aspect : Aspect.values()) {
            if (kind.equals(aspect == Aspect.VALUE ? "tag" : aspect.words())) {
                // Of two tags with one name, a column keeps its own.
                TagRef tag = before.column(name)
                        .map(Column::from)
                        .filter(ColumnSource.FromTag.class::isInstance)
                        .map(from -> ((ColumnSource.FromTag) from).tag())
                        .filter(own -> name(own).equalsIgnoreCase(of))
                        .orElseGet(() -> tags.get(of.toLowerCase(Locale.ROOT)));
                if (tag == null) {
                    line.put(
                            "problem",
                            "there is no tag \"" + of + "\". Write source: path / name, as an exported list does.");
                }
                return Optional.ofNullable(tag).map(each -> new ColumnSource.FromTag(each, aspect));
            }
        }
        switch (kind) {
            case "constant":
                return Optional.of(new ColumnSource.Constant(of));
            case "property":
                return Optional.of(new ColumnSource.FromProperty("", of, Aspect.VALUE));
            case "auto-number":
                return Optional.of(new ColumnSource.AutoNumber());
            case "run":
                Optional<ColumnSource> variable = java.util.Arrays.stream(ColumnSource.Variable.values())
                        .filter(each -> each.words().equalsIgnoreCase(of))
                        .findFirst()
                        .map(ColumnSource.FromRun::new);
                if (variable.isEmpty()) {
                    line.put("problem", "there is no run variable \"" + of + "\".");
                }
                return variable;
            default:
                Optional<ColumnSource> kept = before.column(name).map(Column::from);
                if (kept.isEmpty()) {
                    line.put(
                            "problem",
                            "\"" + kind
                                    + "\" is no source that a list can name. Use tag, quality, source time, property, constant, run or auto-number.");
                }
                return kept;
        }
    }
}
