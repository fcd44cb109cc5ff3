package dachshund.web.equipment;

import dachshund.core.definition.Definition;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.equipment.EquipmentValues;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagFacts;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.tag.TagFinder;
import dachshund.web.design.DesignLists;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Equipment classes and equipment (the words of ISA-95 / IEC 62264): lists, forms, and a card with live properties. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/equipment")
class EquipmentController {

    private static final int SPARE_LINES = 4;

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final TagFinder finder;
    private final Shown shown;
    private final DesignLists lists;

    /** A class, and how many machines are of it. */
    public record ClassLine(EquipmentClassDefinition type, boolean drafted, long machines) {}

    /** A property of a piece of equipment, with its value now. */
    public record Live(
            PropertyDesign property,
            String value,
            String unit,
            String quality,
            String sentence,
            String from,
            String key,
            boolean gap) {}

    /** A property in a form. */
    public record Field(
            PropertyDesign property, String key, String tag, String constant, String unit, String formula) {}

    EquipmentController(
            Definitions definitions, Drafts drafts, Engine engine, TagFinder finder, Shown shown, DesignLists lists) {
        this.lists = lists;
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.finder = finder;
        this.shown = shown;
    }

    private EquipmentClassDefinition type(String id) {
        return definitions.find(EquipmentClassDefinition.class, id).orElseThrow();
    }

    private EquipmentDefinition equipment(String id) {
        return definitions.find(EquipmentDefinition.class, id).orElseThrow();
    }

    private int seen(String id) {
        return drafts.revision(id);
    }

    /** The classes, and below them the machines. */
    @GetMapping
    String list(Asked asked, Model model) {
        List<EquipmentDefinition> all = definitions.all(EquipmentDefinition.class);
        model.addAttribute(
                "classes",
                definitions.all(EquipmentClassDefinition.class).stream()
                        .map(type -> new ClassLine(
                                type,
                                definitions.draft(type.id()).isPresent(),
                                all.stream()
                                        .filter(each -> each.equipmentClass().equals(type.id()))
                                        .count()))
                        .toList());
        lists.show(asked.query("EQUIPMENT"), model);
        return "equipment/equipment";
    }

    // Classes

    @GetMapping("/classes/new")
    String newClass(Model model) {
        return classForm(model, "", "", "", List.of(), "", 0);
    }

    @GetMapping("/classes/{id}")
    String editClass(@PathVariable String id, Model model) {
        EquipmentClassDefinition type = type(id);
        return classForm(model, id, type.name(), type.description(), type.properties(), "", seen(id));
    }

    private String classForm(
            Model model,
            String id,
            String name,
            String description,
            List<PropertyDesign> properties,
            String problem,
            int seen) {
        List<PropertyDesign> lines = new ArrayList<>(properties);
        model.addAttribute("id", id);
        model.addAttribute("name", name);
        model.addAttribute("description", description);
        model.addAttribute("properties", lines);
        model.addAttribute("spare", SPARE_LINES);
        model.addAttribute(
                "kinds", List.of(DataKind.NUMBER, DataKind.INTEGER, DataKind.BOOLEAN, DataKind.TEXT, DataKind.TIME));
        model.addAttribute("fieldProblem", problem);
        model.addAttribute("seen", seen);
        return "equipment/class";
    }

    /** The lines come as parallel lists; one without a name is passed over. */
    @PostMapping("/classes")
    String saveClass(
            @RequestParam String id,
            @RequestParam String name,
            @RequestParam(defaultValue = "") String description,
            @RequestParam(name = "p-name") List<String> names,
            @RequestParam(name = "p-kind") List<String> kinds,
            @RequestParam(name = "p-unit") List<String> units,
            @RequestParam(name = "p-required") List<String> required,
            @RequestParam int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        List<PropertyDesign> properties = new ArrayList<>();
        try {
            for (int i = 0; i < names.size(); i++) {
                if (!names.get(i).isBlank()) {
                    properties.add(new PropertyDesign(
                            names.get(i).strip(),
                            TagFacts.kind(kinds.get(i)),
                            at(units, i),
                            "yes".equals(at(required, i)),
                            ""));
                }
            }
            String problem = definitions.nameProblem(EquipmentClassDefinition.class, id, name);
            if (!problem.isEmpty() || properties.isEmpty()) {
                throw new IllegalArgumentException(
                        problem.isEmpty() ? "A class needs at least one property." : problem);
            }
            EquipmentClassDefinition type = new EquipmentClassDefinition(
                    id.isEmpty() ? Definitions.newId() : id, name.strip(), description.strip(), properties);
            drafts.edit(type, seen, by.getName());
            flash.addFlashAttribute("said", "The class " + type.name() + " is drafted.");
            return "redirect:/plant/equipment";
        } catch (IllegalArgumentException problem) {
            return classForm(model, id, name, description, properties, problem.getMessage(), seen);
        }
    }

    private static String at(List<String> list, int i) {
        return i < list.size() ? list.get(i).strip() : "";
    }

    // Pieces of equipment

    @GetMapping("/new")
    String fresh(@RequestParam(name = "class") String type, Model model) {
        EquipmentClassDefinition chosen = type(type);
        return form(model, new EquipmentDefinition("", "", "", chosen.id(), "", Map.of()), "", 0);
    }

    @GetMapping("/{id}/edit")
    String edit(@PathVariable String id, Model model) {
        return form(model, equipment(id), "", seen(id));
    }

    private String form(Model model, EquipmentDefinition equipment, String problem, int seen) {
        EquipmentClassDefinition type = type(equipment.equipmentClass());
        model.addAttribute("type", type);
        model.addAttribute("equipment", equipment);
        model.addAttribute(
                "fields",
                type.properties().stream()
                        .map(property -> field(property, equipment.property(property.name())))
                        .toList());
        model.addAttribute("fieldProblem", problem);
        model.addAttribute("seen", seen);
        return "equipment/form";
    }

    private Field field(PropertyDesign property, Optional<PropertySource> from) {
        if (from.orElse(null) instanceof PropertySource.FromTag tag) {
            return new Field(
                    property,
                    tag.tag().source() + " " + tag.tag().address(),
                    name(tag.tag()),
                    "",
                    tag.unit(),
                    tag.formula());
        }
        return new Field(
                property,
                "",
                "",
                from.map(constant -> ((PropertySource.Constant) constant).text())
                        .orElse(""),
                "",
                "");
    }

    private String name(TagRef ref) {
        return finder.find(ref)
                .map(found -> found.source().name() + " / " + found.info().fullName())
                .orElse("a tag that is gone");
    }

    @PostMapping
    String save(
            @RequestParam String id,
            @RequestParam(name = "class") String classId,
            @RequestParam String name,
            @RequestParam(defaultValue = "") String description,
            @RequestParam(defaultValue = "") String location,
            @RequestParam Map<String, String> all,
            @RequestParam int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        EquipmentClassDefinition type = type(classId);
        Map<String, PropertySource> mapped = new TreeMap<>();
        List<String> problems = new ArrayList<>();
        for (int i = 0; i < type.properties().size(); i++) {
            PropertyDesign property = type.properties().get(i);
            String key = all.getOrDefault("tag-" + i, "");
            String constant = all.getOrDefault("constant-" + i, "").strip();
            if (!key.isBlank()) {
                mapped.put(
                        property.name(),
                        new PropertySource.FromTag(
                                TagFinder.ref(key),
                                all.getOrDefault("unit-" + i, "").strip(),
                                all.getOrDefault("formula-" + i, "").strip()));
            } else if (!constant.isEmpty()) {
                mapped.put(property.name(), new PropertySource.Constant(constant));
            }
            if (mapped.containsKey(property.name())) {
                problems.addAll(EquipmentValues.problems(property, mapped.get(property.name()), definitions::tag));
            }
        }
        EquipmentDefinition equipment = new EquipmentDefinition(
                id.isEmpty() ? Definitions.newId() : id,
                name.strip(),
                description.strip(),
                classId,
                location.strip(),
                mapped);
        String nameProblem = definitions.nameProblem(EquipmentDefinition.class, equipment.id(), name);
        if (!nameProblem.isEmpty()) {
            problems.add(0, nameProblem);
        }
        if (!problems.isEmpty()) {
            return form(
                    model,
                    new EquipmentDefinition(id, name, description, classId, location, mapped),
                    String.join(" ", problems),
                    seen);
        }
        drafts.edit(equipment, seen, by.getName());
        List<String> gaps = EquipmentValues.gaps(type.properties(), mapped);
        flash.addFlashAttribute(
                "said",
                equipment.name() + " is drafted."
                        + (gaps.isEmpty() ? "" : " Still without a value: " + String.join(", ", gaps) + "."));
        return "redirect:/plant/equipment/" + equipment.id();
    }

    @GetMapping("/{id}")
    String card(@PathVariable String id, Model model) {
        EquipmentDefinition equipment = equipment(id);
        model.addAttribute("users", definitions.users(id));
        model.addAttribute("drafted", definitions.draft(id).isPresent());
        live(equipment, model);
        return "equipment/card";
    }

    @GetMapping("/{id}/live")
    String liveOnly(@PathVariable String id, Model model) {
        live(equipment(id), model);
        return "equipment/card :: live";
    }

    private void live(EquipmentDefinition equipment, Model model) {
        EquipmentClassDefinition type = type(equipment.equipmentClass());
        Instant now = engine.clock().now();
        model.addAttribute("equipment", equipment);
        model.addAttribute("type", type);
        model.addAttribute(
                "live",
                type.properties().stream()
                        .map(property -> live(property, equipment.property(property.name()), now))
                        .toList());
    }

    private Live live(PropertyDesign property, Optional<PropertySource> from, Instant now) {
        if (from.isEmpty()) {
            return new Live(
                    property,
                    "–",
                    "",
                    "bad",
                    property.required() ? "required, but not mapped" : "not mapped",
                    "",
                    "",
                    property.required());
        }
        TagValue value = EquipmentValues.value(
                property,
                from.get(),
                definitions::tag,
                ref -> engine.tags().entry(ref).value(),
                now);
        boolean tag = from.get() instanceof PropertySource.FromTag;
        TagRef ref = from.get() instanceof PropertySource.FromTag each ? each.tag() : null;
        String unit = property.unit().isEmpty() && ref != null
                ? definitions.tag(ref).map(info -> info.unit()).orElse("")
                : property.unit();
        return new Live(
                property,
                shown.value(value),
                unit,
                value.quality().grade().name().toLowerCase(Locale.ROOT),
                value.quality().sentence(),
                tag ? name(ref) : "constant",
                tag ? ref.source() + " " + ref.address() : "",
                false);
    }

    @PostMapping("/{id}/undo")
    String undo(@PathVariable String id, Principal by) {
        drafts.undo(id, by.getName());
        return definitions.find(id).isPresent() ? "redirect:/plant/equipment/" + id : "redirect:/plant/equipment";
    }

    /** Removes a class or a piece of equipment; a class in use is refused with its users. */
    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        List<Definition> users = definitions.users(id);
        Definition thing = definitions.find(id).orElseThrow();
        if (!users.isEmpty()) {
            flash.addFlashAttribute(
                    "problem",
                    thing.name() + " is used by "
                            + String.join(
                                    ", ",
                                    users.stream()
                                            .map(Definition::name)
                                            .limit(10)
                                            .toList()) + ". Remove it there first.");
        } else {
            drafts.remove(id, by.getName());
            flash.addFlashAttribute(
                    "said",
                    thing.name() + " is removed"
                            + (definitions.draft(id).isPresent() ? " with the next release." : "."));
        }
        return "redirect:/plant/equipment";
    }
}
