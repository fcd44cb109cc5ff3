package dachshund.office.lineup;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.Repeatable;
import dachshund.core.lineup.LineEdits;
import dachshund.core.lineup.LineUp;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.text.SafeCell;
import dachshund.core.time.PeriodText;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.IOException;
import java.io.StringWriter;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.springframework.stereotype.Component;

/**
 * The lines of a line-up as CSV (RFC 4180), pasted from a spreadsheet or brought as a file. Columns: name, equipment, table
 * where lines have tables of their own, rate; {@code constant …} for each constant; {@code tag …} for each tag of the original. An empty cell of a tag is a gap;
 * words say where the line reads the original's own tag or does without. A column that is not there changes nothing; one that
 * nobody knows is refused, since it may be a known one with a typing error.
 */
@Component
public class LineList {

    private static final String SHARED = "as the original";
    private static final String LEFT_OUT = "left out";

    private final Definitions definitions;
    private final TagFinder finder;

    /** @param problems sentences with their line; where there are any, nothing is taken */
    public record Read<D>(List<D> lines, List<String> problems) {}

    LineList(Definitions definitions, TagFinder finder) {
        this.definitions = definitions;
        this.finder = finder;
    }

    /** The tags of the original by the name that their column has here. */
    private Map<String, TagRef> columns(Repeatable<?, ?> original) {
        Map<String, TagRef> columns = new LinkedHashMap<>();
        for (TagRef tag : original.everyTag()) {
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

    public <D extends Repeatable<D, M>, M> String write(LineUp<D, M> lineUp, D original, List<D> followers) {
        Map<String, TagRef> tags = columns(original);
        Map<String, String> constants = lineUp.constants(original);
        StringWriter out = new StringWriter();
        out.write('\uFEFF');
        CsvWriter csv = CsvWriter.builder()
                .lineDelimiter(LineDelimiter.CRLF)
                .bufferSize(0)
                .build(out);
        csv.writeRecord(head(lineUp, original));
        for (D follower : followers) {
            Follows<M> follows = follower.follows().orElseThrow();
            Map<TagRef, TagRef> swaps = new HashMap<>();
            follows.tags().forEach(swap -> swaps.put(swap.from(), swap.to()));
            List<String> cells = new ArrayList<>(List.of(
                    follower.name(),
                    definitions
                            .find(follower.equipment())
                            .map(each -> each.name())
                            .orElse("")));
            if (lineUp.ownTables()) {
                cells.add(lineUp.tables(follower).values().stream().findFirst().orElse(""));
            }
            cells.add(follows.rate().map(PeriodText::write).orElse(""));
            constants.keySet().forEach(name -> cells.add(follows.constants().getOrDefault(name, "")));
            tags.values().forEach(tag -> cells.add(cell(follows, swaps, tag)));
            csv.writeRecord(cells.stream().map(SafeCell::outUnlessNumber).toList());
        }
        return out.toString();
    }

    private String cell(Follows<?> follows, Map<TagRef, TagRef> swaps, TagRef tag) {
        if (swaps.containsKey(tag)) {
            return full(swaps.get(tag));
        }
        return follows.shared().contains(tag) ? SHARED : follows.leftOut().contains(tag) ? LEFT_OUT : "";
    }

    private <D extends Repeatable<D, M>, M> List<String> head(LineUp<D, M> lineUp, D original) {
        List<String> head = new ArrayList<>(
                lineUp.ownTables()
                        ? List.of("name", "equipment", "table", "rate")
                        : List.of("name", "equipment", "rate"));
        lineUp.constants(original).keySet().forEach(name -> head.add("constant " + name));
        head.addAll(columns(original).keySet());
        return head;
    }

    /** A sentence about columns that mean nothing here, empty where there is none. */
    private String strange(List<String> known, Collection<String> columns) {
        String strange = columns.stream()
                .map(String::strip)
                .filter(column -> known.stream().noneMatch(column::equalsIgnoreCase))
                .map(column -> column.isEmpty() ? "one without a name" : "\"" + column + "\"")
                .collect(Collectors.joining(", "));
        return strange.isEmpty()
                ? ""
                : "There is no column named so: " + strange + ". Those that there are: " + String.join(", ", known)
                        + ".";
    }

    /** Lines of known names change theirs; others make new ones. */
    public <D extends Repeatable<D, M>, M> Read<D> read(
            LineUp<D, M> lineUp, D original, List<D> followers, String text) {
        List<D> made = new ArrayList<>();
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
                String strange = strange(head(lineUp, original), record.getHeader());
                if (!strange.isEmpty()) {
                    return new Read<>(List.of(), List.of(strange));
                }
                Map<String, String> line = new TreeMap<>(String.CASE_INSENSITIVE_ORDER);
                record.getFieldsAsMap()
                        .forEach((name, value) ->
                                line.put(name.strip(), SafeCell.in(value).strip()));
                try {
                    D read = line(lineUp, original, followers, line, known);
                    if (made.stream().anyMatch(each -> each.name().equalsIgnoreCase(read.name()))) {
                        throw new IllegalArgumentException("there are two lines named " + read.name() + ".");
                    }
                    made.add(read);
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
        return new Read<>(made, problems);
    }

    private <D extends Repeatable<D, M>, M> D line(
            LineUp<D, M> lineUp, D original, List<D> followers, Map<String, String> line, Map<String, TagRef> known) {
        String name = line.getOrDefault("name", "");
        if (name.isEmpty()) {
            throw new IllegalArgumentException("the name is missing.");
        }
        Optional<D> before = followers.stream()
                .filter(each -> each.name().equalsIgnoreCase(name))
                .findFirst();
        String equipment = line.containsKey("equipment") || before.isEmpty()
                ? equipment(line.getOrDefault("equipment", ""))
                : before.get().equipment();
        Follows<M> follows = follows(lineUp, original, before, line, known, equipment);
        String table = line.getOrDefault("table", "");
        if (before.isEmpty()) {
            return lineUp.begun(original, Definitions.newId(), name, equipment, table, follows);
        }
        D changed = before.get().withEquipment(equipment).withFollows(Optional.of(follows));
        return new LineEdits<>(lineUp, original, table.isEmpty() ? changed : lineUp.withTable(changed, table))
                .brought(Set.of());
    }

    /** What the line says it has of its own; of what it does not speak, as before. */
    private <D extends Repeatable<D, M>, M> Follows<M> follows(
            LineUp<D, M> lineUp,
            D original,
            Optional<D> before,
            Map<String, String> line,
            Map<String, TagRef> known,
            String equipment) {
        Follows<M> was = before.flatMap(Repeatable::follows)
                .orElseGet(() -> new Follows<>(original.id(), List.of(), Map.of(), Optional.empty()));
        List<Follows.Swap> swaps = new ArrayList<>();
        List<TagRef> shared = new ArrayList<>();
        List<TagRef> leftOut = new ArrayList<>();
        columns(original).forEach((column, tag) -> {
            String wanted = line.get(column);
            if (wanted == null) {
                was.tags().stream().filter(swap -> swap.from().equals(tag)).forEach(swaps::add);
                was.shared().stream().filter(tag::equals).forEach(shared::add);
                was.leftOut().stream().filter(tag::equals).forEach(leftOut::add);
            } else if (wanted.equalsIgnoreCase(SHARED)) {
                shared.add(tag);
            } else if (wanted.equalsIgnoreCase(LEFT_OUT)) {
                leftOut.add(tag);
            } else if (!wanted.isEmpty()) {
                TagRef to = known.get(wanted.toLowerCase(Locale.ROOT));
                if (to == null) {
                    throw new IllegalArgumentException("there is no tag \"" + wanted
                            + "\". Write source: path / name, \"" + SHARED + "\" or \"" + LEFT_OUT + "\".");
                }
                swaps.add(new Follows.Swap(tag, to));
            }
        });
        Map<String, String> constants = new TreeMap<>();
        lineUp.constants(original).keySet().forEach(constant -> {
            String text =
                    line.getOrDefault("constant " + constant, was.constants().getOrDefault(constant, ""));
            if (!text.isEmpty()) {
                constants.put(constant, text);
            }
        });
        Optional<Duration> rate = !line.containsKey("rate")
                ? was.rate()
                : line.get("rate").isEmpty() ? Optional.empty() : Optional.of(PeriodText.read(line.get("rate")));
        Optional<M> made = was.made()
                .or(() -> before.map(each -> lineUp.derived(original, each).made()));
        return new Follows<>(
                original.id(),
                swaps,
                constants,
                rate,
                shared,
                leftOut,
                names(lineUp, original, equipment, swaps, was),
                made);
    }

    /** What the original calls its machine, and what this line calls its own. */
    private <D extends Repeatable<D, M>, M> Map<String, String> names(
            LineUp<D, M> lineUp, D original, String equipment, List<Follows.Swap> swaps, Follows<M> was) {
        String own =
                definitions.find(original.equipment()).map(each -> each.name()).orElse("");
        Collection<String> named = lineUp.machines(original);
        String of = own.isEmpty() && named.size() == 1 ? named.iterator().next() : own;
        String its = definitions.find(equipment).map(each -> each.name()).orElse("");
        if (!of.isEmpty() && !its.isEmpty()) {
            return Map.of(of, its);
        }
        return was.names().isEmpty() ? inPlaces(swaps) : was.names();
    }

    /** What the places of most tags call the two machines: the one part in which they differ. */
    private Map<String, String> inPlaces(List<Follows.Swap> swaps) {
        Map<Map.Entry<String, String>, Integer> differ = new LinkedHashMap<>();
        for (Follows.Swap swap : swaps) {
            List<String> from = place(swap.from());
            List<String> to = place(swap.to());
            List<Integer> parts = IntStream.range(0, Math.min(from.size(), to.size()))
                    .filter(i -> !from.get(i).equals(to.get(i)))
                    .boxed()
                    .toList();
            if (from.size() == to.size() && parts.size() == 1) {
                differ.merge(Map.entry(from.get(parts.get(0)), to.get(parts.get(0))), 1, Integer::sum);
            }
        }
        return differ.entrySet().stream()
                .max(Map.Entry.comparingByValue())
                .map(each -> Map.of(each.getKey().getKey(), each.getKey().getValue()))
                .orElseGet(Map::of);
    }

    private List<String> place(TagRef tag) {
        return definitions
                .tag(tag)
                .map(info -> Arrays.stream(info.fullName().split("/"))
                        .map(String::strip)
                        .toList())
                .orElse(List.of());
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
