package dachshund.web.lineup;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.lineup.LineUp;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.text.SafeCell;
import dachshund.core.time.PeriodText;
import dachshund.web.definition.Definitions;
import dachshund.web.tag.TagFinder;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.IOException;
import java.io.StringWriter;
import java.time.Duration;
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
 * The lines of a line-up as CSV (RFC 4180), pasted from a spreadsheet or brought as a file. Columns: name, equipment, table,
 * rate; {@code constant …} for each constant; {@code tag …} for each tag of the original. An empty cell means as the original.
 */
@Component
class LineList {

    private final Definitions definitions;
    private final TagFinder finder;

    /** @param problems sentences with their line; where there are any, nothing is taken */
    record Read(List<RecorderDefinition> recorders, List<String> problems) {}

    LineList(Definitions definitions, TagFinder finder) {
        this.definitions = definitions;
        this.finder = finder;
    }

    /** The tags of the original by the name that their column has here. */
    private Map<String, TagRef> columns(RecorderDefinition original) {
        Map<String, TagRef> columns = new LinkedHashMap<>();
        for (TagRef tag : LineUp.tags(original)) {
            String name = definitions.tag(tag).map(TagInfo::name).orElse(tag.address());
            String free = name;
            for (int n = 2; columns.containsKey("tag " + free); n++) {
                free = name + " " + n;
            }
            columns.put("tag " + free, tag);
        }
        return columns;
    }

    private String full(TagRef tag) {
        return finder.find(tag)
                .map(found -> found.source().name() + ": " + found.info().fullName())
                .orElse(tag.address());
    }

    String write(RecorderDefinition original, List<RecorderDefinition> followers) {
        Map<String, TagRef> tags = columns(original);
        Map<String, String> constants = LineUp.constants(original.layout());
        StringWriter out = new StringWriter();
        out.write('\uFEFF');
        CsvWriter csv = CsvWriter.builder()
                .lineDelimiter(LineDelimiter.CRLF)
                .bufferSize(0)
                .build(out);
        List<String> head = new ArrayList<>(List.of("name", "equipment", "table", "rate"));
        constants.keySet().forEach(name -> head.add("constant " + name));
        head.addAll(tags.keySet());
        csv.writeRecord(head);
        for (RecorderDefinition follower : followers) {
            Follows follows = follower.follows().orElseThrow();
            Map<TagRef, TagRef> swaps = new HashMap<>();
            follows.tags().forEach(swap -> swaps.put(swap.from(), swap.to()));
            List<String> cells = new ArrayList<>(List.of(
                    follower.name(),
                    definitions
                            .find(follower.equipment())
                            .map(each -> each.name())
                            .orElse(""),
                    follower.wheres().stream().findFirst().map(Where::table).orElse(""),
                    follows.rate().map(PeriodText::write).orElse("")));
            constants.keySet().forEach(name -> cells.add(follows.constants().getOrDefault(name, "")));
            tags.values().forEach(tag -> cells.add(swaps.containsKey(tag) ? full(swaps.get(tag)) : ""));
            csv.writeRecord(cells.stream().map(SafeCell::outUnlessNumber).toList());
        }
        return out.toString();
    }

    /** Lines of known names change their recorders; others make new ones. */
    Read read(RecorderDefinition original, List<RecorderDefinition> followers, String text) {
        List<RecorderDefinition> made = new ArrayList<>();
        List<String> problems = new ArrayList<>();
        Map<String, TagRef> known = new HashMap<>();
        finder.find("", "")
                .forEach(found -> known.putIfAbsent(
                        (found.source().name() + ": " + found.info().fullName()).toLowerCase(Locale.ROOT),
                        found.ref()));
        String whole = text.startsWith("\uFEFF") ? text.substring(1) : text;
        String first = whole.lines().findFirst().orElse("");
        char separator = first.contains("\t") ? '\t' : first.contains(";") && !first.contains(",") ? ';' : ',';
        try (CsvReader<NamedCsvRecord> reader =
                CsvReader.builder().fieldSeparator(separator).ofNamedCsvRecord(whole)) {
            for (NamedCsvRecord record : reader) {
                Map<String, String> line = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
                record.getFieldsAsMap()
                        .forEach((name, value) ->
                                line.put(name.strip(), SafeCell.in(value).strip()));
                try {
                    RecorderDefinition recorder = line(original, followers, line, known);
                    if (made.stream().anyMatch(each -> each.name().equalsIgnoreCase(recorder.name()))) {
                        throw new IllegalArgumentException("there are two lines named " + recorder.name() + ".");
                    }
                    made.add(recorder);
                } catch (IllegalArgumentException problem) {
                    problems.add("Line " + record.getStartingLineNumber() + ": " + problem.getMessage());
                }
            }
        } catch (RuntimeException | IOException notCsv) {
            problems.add("This is no CSV with a header line: " + notCsv.getMessage());
        }
        if (made.isEmpty() && problems.isEmpty()) {
            problems.add(
                    "There is no line. The first has the names of the columns, as in the file that can be downloaded.");
        }
        return new Read(made, problems);
    }

    private RecorderDefinition line(
            RecorderDefinition original,
            List<RecorderDefinition> followers,
            Map<String, String> line,
            Map<String, TagRef> known) {
        String name = line.getOrDefault("name", "");
        if (name.isEmpty()) {
            throw new IllegalArgumentException("the name is missing.");
        }
        Optional<RecorderDefinition> before = followers.stream()
                .filter(each -> each.name().equalsIgnoreCase(name))
                .findFirst();
        String equipment = equipment(line.getOrDefault("equipment", ""));
        List<Follows.Swap> swaps = new ArrayList<>();
        columns(original).forEach((column, tag) -> {
            String wanted = line.getOrDefault(column, "");
            if (!wanted.isEmpty()) {
                TagRef to = known.get(wanted.toLowerCase(Locale.ROOT));
                if (to == null) {
                    throw new IllegalArgumentException(
                            "there is no tag \"" + wanted + "\". Write source: path / name.");
                }
                swaps.add(new Follows.Swap(tag, to));
            }
        });
        Map<String, String> constants = new TreeMap<>();
        LineUp.constants(original.layout()).keySet().forEach(constant -> {
            if (!line.getOrDefault("constant " + constant, "").isEmpty()) {
                constants.put(constant, line.get("constant " + constant));
            }
        });
        Optional<Duration> rate = line.getOrDefault("rate", "").isEmpty()
                ? Optional.empty()
                : Optional.of(PeriodText.read(line.get("rate")));
        String table = line.getOrDefault("table", "");
        List<Where> wheres = original.wheres().stream()
                .map(where -> table.isEmpty() ? where : where.withTable(table))
                .toList();
        RecorderDefinition bare = new RecorderDefinition(
                before.map(RecorderDefinition::id).orElseGet(Definitions::newId),
                name,
                original.description(),
                equipment,
                original.whens(),
                original.gate(),
                original.layout(),
                wheres,
                Optional.of(new Follows(original.id(), swaps, constants, rate)));
        return LineUp.derived(original, bare);
    }

    private String equipment(String name) {
        return name.isEmpty()
                ? ""
                : definitions.all(EquipmentDefinition.class).stream()
                        .filter(each -> each.name().equalsIgnoreCase(name))
                        .findFirst()
                        .orElseThrow(() -> new IllegalArgumentException("there is no equipment named " + name + "."))
                        .id();
    }
}
