package dachshund.web.equipment;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.equipment.EquipmentValues;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.TagRef;
import dachshund.core.text.SafeCell;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.FieldMismatchStrategy;
import de.siegmar.fastcsv.reader.NamedCsvRecord;
import de.siegmar.fastcsv.writer.CsvWriter;
import java.io.IOException;
import java.io.StringWriter;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.springframework.http.ContentDisposition;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Equipment as CSV (RFC 4180), a line a property: out, and in again as drafts. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/equipment")
class EquipmentCsv {

    private static final List<String> COLUMNS =
            List.of("class", "equipment", "location", "property", "source", "tag", "constant", "unit", "formula");

    private final Definitions definitions;
    private final Drafts drafts;
    private final TagFinder finder;

    EquipmentCsv(Definitions definitions, Drafts drafts, TagFinder finder) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.finder = finder;
    }

    @GetMapping("/csv")
    ResponseEntity<byte[]> out() {
        StringWriter text = new StringWriter();
        text.write('\uFEFF');
        try (CsvWriter writer = CsvWriter.builder().build(text)) {
            writer.writeRecord(COLUMNS);
            definitions.all(EquipmentDefinition.class).forEach(equipment -> write(writer, equipment));
        } catch (IOException impossible) {
            throw new UncheckedIOException(impossible);
        }
        return ResponseEntity.ok()
                .contentType(new MediaType("text", "csv", StandardCharsets.UTF_8))
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename("equipment.csv")
                                .build()
                                .toString())
                .body(text.toString().getBytes(StandardCharsets.UTF_8));
    }

    private void write(CsvWriter writer, EquipmentDefinition equipment) {
        String type = definitions
                .find(equipment.equipmentClass())
                .map(Definition::name)
                .orElse("");
        new TreeMap<>(equipment.properties()).forEach((property, from) -> {
            if (from instanceof PropertySource.FromTag tag) {
                Optional<FoundTag> found = finder.find(tag.tag());
                write(
                        writer,
                        type,
                        equipment.name(),
                        equipment.location(),
                        property,
                        found.map(each -> each.source().name()).orElse(""),
                        found.map(each -> each.info().fullName()).orElse(""),
                        "",
                        tag.unit(),
                        tag.formula());
            } else if (from instanceof PropertySource.Constant constant) {
                write(writer, type, equipment.name(), equipment.location(), property, "", "", constant.text(), "", "");
            }
        });
    }

    private static void write(CsvWriter writer, String... cells) {
        writer.writeRecord(Arrays.stream(cells).map(SafeCell::outUnlessNumber).toList());
    }

    @GetMapping("/csv-in")
    String form(Model model) {
        model.addAttribute("text", "");
        return "equipment/csv";
    }

    /** All lines or none. Equipment that is known gets the properties of its lines; the others it has stay. */
    @PostMapping("/csv-in")
    String in(@RequestParam String text, Principal by, Model model, RedirectAttributes flash) {
        List<String> problems = new ArrayList<>();
        Map<String, EquipmentDefinition> changed = new LinkedHashMap<>();
        Map<String, FoundTag> tags = new HashMap<>();
        finder.find("", "")
                .forEach(tag ->
                        tags.put((tag.source().name() + "\n" + tag.info().fullName()).toLowerCase(Locale.ROOT), tag));
        String plain = text.startsWith("\uFEFF") ? text.substring(1) : text;
        char separator = plain.lines().findFirst().orElse("").contains(";")
                ? ';'
                : plain.lines().findFirst().orElse("").contains("\t") ? '\t' : ',';
        try {
            for (NamedCsvRecord line : CsvReader.builder()
                    .fieldSeparator(separator)
                    .missingFieldStrategy(FieldMismatchStrategy.IGNORE)
                    .ofNamedCsvRecord(plain)) {
                Map<String, String> values = new HashMap<>();
                line.getFieldsAsMap()
                        .forEach((name, value) ->
                                values.put(name.strip().toLowerCase(Locale.ROOT), SafeCell.in(value.strip())));
                try {
                    line(values, tags, changed);
                } catch (IllegalArgumentException problem) {
                    problems.add("Line " + line.getStartingLineNumber() + ": " + problem.getMessage());
                }
            }
        } catch (CsvParseException problem) {
            problems.add("This is no CSV: " + problem.getMessage() + ".");
        }
        if (problems.isEmpty() && changed.isEmpty()) {
            problems.add("There is no line below the header. Columns are: " + String.join(", ", COLUMNS) + ".");
        }
        if (!problems.isEmpty()) {
            model.addAttribute("text", text);
            model.addAttribute("lineProblems", problems.size() > 20 ? problems.subList(0, 20) : problems);
            return "equipment/csv";
        }
        drafts.editAll(List.copyOf(changed.values()), by.getName());
        flash.addFlashAttribute("said", changed.size() + " pieces of equipment are drafted from CSV.");
        return "redirect:/plant/equipment";
    }

    private void line(
            Map<String, String> values, Map<String, FoundTag> tags, Map<String, EquipmentDefinition> changed) {
        String name = needed(values, "equipment");
        String className = needed(values, "class");
        EquipmentClassDefinition type = definitions.all(EquipmentClassDefinition.class).stream()
                .filter(each -> each.name().equalsIgnoreCase(className))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("there is no equipment class " + className + "."));
        PropertyDesign property = type.property(needed(values, "property"))
                .orElseThrow(() -> new IllegalArgumentException(
                        "the class " + type.name() + " has no property " + values.get("property") + "."));
        EquipmentDefinition equipment = changed.computeIfAbsent(
                name.toLowerCase(Locale.ROOT), key -> definitions.all(EquipmentDefinition.class).stream()
                        .filter(each -> each.name().equalsIgnoreCase(name))
                        .findFirst()
                        .orElseGet(() -> new EquipmentDefinition(
                                Definitions.newId(),
                                name,
                                "",
                                type.id(),
                                values.getOrDefault("location", ""),
                                Map.of())));
        if (!equipment.equipmentClass().equals(type.id())) {
            throw new IllegalArgumentException(name + " is of another class.");
        }
        PropertySource from;
        if (!values.getOrDefault("tag", "").isEmpty()) {
            FoundTag tag = Optional.ofNullable(tags.get(
                            (values.getOrDefault("source", "") + "\n" + values.get("tag")).toLowerCase(Locale.ROOT)))
                    .orElseThrow(() -> new IllegalArgumentException("there is no tag " + values.get("tag")
                            + " in the source " + values.getOrDefault("source", "") + "."));
            from = new PropertySource.FromTag(
                    new TagRef(tag.source().id(), tag.info().address()),
                    values.getOrDefault("unit", ""),
                    values.getOrDefault("formula", ""));
        } else {
            from = new PropertySource.Constant(needed(values, "constant"));
        }
        List<String> problems = EquipmentValues.problems(property, from, definitions::tag);
        if (!problems.isEmpty()) {
            throw new IllegalArgumentException(String.join(" ", problems));
        }
        Map<String, PropertySource> next = new TreeMap<>(equipment.properties());
        next.put(property.name(), from);
        changed.put(name.toLowerCase(Locale.ROOT), equipment.withProperties(next));
    }

    private static String needed(Map<String, String> values, String column) {
        String value = values.getOrDefault(column, "");
        if (value.isEmpty()) {
            throw new IllegalArgumentException("the column " + column + " is empty.");
        }
        return value;
    }
}
