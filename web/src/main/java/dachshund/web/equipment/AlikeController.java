package dachshund.web.equipment;

import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.equipment.Alike;
import dachshund.core.equipment.PropertyDesign;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.TagRef;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Equipment by pattern: folders of tags that look alike, found by themselves or beneath a path; shown before it is done. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/equipment")
class AlikeController {

    private static final int SHOWN = 40;

    private final Definitions definitions;
    private final Drafts drafts;
    private final TagFinder finder;

    /** A group as it is shown: with the class it fits, if there is one. */
    public record Found(
            int number,
            Alike.Group group,
            Optional<EquipmentClassDefinition> fits,
            List<String> names,
            String proposed) {}

    AlikeController(Definitions definitions, Drafts drafts, TagFinder finder) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.finder = finder;
    }

    /**
     * Groups without the machines that are equipment already.
     *
     * @param path only folders whose path matches it; a star stands for anything
     */
    private List<Alike.Group> groups(String path) {
        Pattern pattern = Pattern.compile(
                Arrays.stream(path.strip().split("\\*", -1)).map(Pattern::quote).collect(Collectors.joining(".*")),
                Pattern.CASE_INSENSITIVE);
        List<FoundTag> tags = finder.find("", "").stream()
                .filter(tag ->
                        path.isBlank() || pattern.matcher(tag.info().path()).find())
                .toList();
        Set<TagRef> mapped = tags.stream()
                .filter(tag -> !tag.equipment().isEmpty())
                .map(FoundTag::ref)
                .collect(Collectors.toSet());
        return Alike.groups(tags.stream()
                        .map(tag -> new Alike.Placed(tag.ref(), tag.info()))
                        .toList())
                .stream()
                .map(group -> group.without(mapped))
                .filter(group -> !group.machines().isEmpty())
                .toList();
    }

    @GetMapping("/alike")
    String alike(@RequestParam(defaultValue = "") String path, Model model) {
        List<Alike.Group> groups = groups(path);
        List<Found> found = new ArrayList<>();
        for (int i = 0; i < Math.min(SHOWN, groups.size()); i++) {
            Alike.Group group = groups.get(i);
            found.add(new Found(i, group, fits(group), names(group), group.proposedName()));
        }
        model.addAttribute("found", found);
        model.addAttribute("count", groups.size());
        model.addAttribute("path", path);
        return "equipment/alike";
    }

    /** A class whose properties mostly have the names of the group's. */
    private Optional<EquipmentClassDefinition> fits(Alike.Group group) {
        return definitions.all(EquipmentClassDefinition.class).stream()
                .filter(type -> type.properties().stream()
                                        .filter(property -> contains(group.properties(), property.name()))
                                        .count()
                                * 2
                        > group.properties().size())
                .findFirst();
    }

    private static boolean contains(List<String> names, String name) {
        return names.stream().anyMatch(name::equalsIgnoreCase);
    }

    /** A name for each machine that no equipment has. */
    private List<String> names(Alike.Group group) {
        Set<String> taken = definitions.all(EquipmentDefinition.class).stream()
                .map(each -> each.name().toLowerCase(Locale.ROOT))
                .collect(Collectors.toCollection(HashSet::new));
        List<String> names = new ArrayList<>();
        for (Alike.Machine machine : group.machines()) {
            String name = machine.name();
            for (int n = 2; !taken.add(name.toLowerCase(Locale.ROOT)); n++) {
                name = machine.name() + " " + n;
            }
            names.add(name);
        }
        return names;
    }

    /** Makes the class, if it is new, and a piece of equipment for each ticked machine; all as drafts. */
    @PostMapping("/alike")
    String map(
            @RequestParam(defaultValue = "") String path,
            @RequestParam int number,
            @RequestParam(name = "class", defaultValue = "") String classId,
            @RequestParam(defaultValue = "") String className,
            @RequestParam(name = "machine", required = false) List<Integer> machines,
            @RequestParam(name = "name") List<String> names,
            @RequestParam(name = "property", required = false) List<String> properties,
            Principal by,
            RedirectAttributes flash) {
        List<Alike.Group> groups = groups(path);
        if (number >= groups.size() || machines == null) {
            flash.addFlashAttribute(
                    "problem",
                    machines == null ? "No machine is ticked." : "What was found has changed meanwhile. Look again.");
            return "redirect:/plant/equipment/alike";
        }
        Alike.Group group = groups.get(number);
        EquipmentClassDefinition type = classId.isEmpty()
                ? newClass(group, className, properties == null ? group.properties() : properties)
                : definitions.find(EquipmentClassDefinition.class, classId).orElseThrow();
        if (classId.isEmpty()) {
            String problem = definitions.nameProblem(EquipmentClassDefinition.class, type.id(), type.name());
            if (!problem.isEmpty()) {
                flash.addFlashAttribute("problem", problem + " Nothing was made.");
                return "redirect:/plant/equipment/alike";
            }
            drafts.edit(type, drafts.revision(type.id()), by.getName());
        }
        int made = 0;
        for (int i : machines) {
            Alike.Machine machine = group.machines().get(i);
            String name =
                    i < names.size() && !names.get(i).isBlank() ? names.get(i).strip() : machine.name();
            if (definitions.nameProblem(EquipmentDefinition.class, "", name).isEmpty()) {
                drafts.edit(
                        new EquipmentDefinition(
                                Definitions.newId(), name, "", type.id(), machine.location(), mapped(type, machine)),
                        0,
                        by.getName());
                made++;
            }
        }
        flash.addFlashAttribute(
                "said",
                made + " of the class " + type.name() + " are drafted"
                        + (made < machines.size() ? "; the others have names that are taken." : "."));
        return "redirect:/plant/equipment";
    }

    private static EquipmentClassDefinition newClass(Alike.Group group, String name, List<String> properties) {
        List<PropertyDesign> designs = group.properties().stream()
                .filter(properties::contains)
                .map(property -> {
                    Alike.Placed tag = group.machines().stream()
                            .map(machine -> machine.tags().get(property))
                            .filter(Objects::nonNull)
                            .findFirst()
                            .orElseThrow();
                    boolean everywhere = group.machines().stream()
                            .allMatch(machine -> machine.tags().containsKey(property));
                    return new PropertyDesign(
                            property,
                            tag.info().kind(),
                            tag.info().unit(),
                            everywhere,
                            tag.info().description());
                })
                .toList();
        return new EquipmentClassDefinition(
                Definitions.newId(), name.isBlank() ? group.proposedName() : name.strip(), "", designs);
    }

    private static Map<String, PropertySource> mapped(EquipmentClassDefinition type, Alike.Machine machine) {
        Map<String, PropertySource> mapped = new TreeMap<>();
        type.properties().forEach(property -> machine.tags().forEach((name, tag) -> {
            if (name.equalsIgnoreCase(property.name())) {
                mapped.put(property.name(), PropertySource.FromTag.of(tag.ref()));
            }
        }));
        return mapped;
    }

    /** The ticked tags as the properties of one new machine, in a new class. */
    @Needs(Right.DESIGN)
    @GetMapping("/from-tags")
    String fromTags(Model model, Principal by, RedirectAttributes flash) {
        if (!(model.getAttribute("tags") instanceof List<?> tags) || tags.isEmpty()) {
            return "redirect:/plant";
        }
        List<FoundTag> found = tags.stream()
                .map(TagRef.class::cast)
                .map(finder::find)
                .flatMap(Optional::stream)
                .toList();
        String path = found.get(0).info().path();
        String base = path.isEmpty()
                ? "Machine"
                : path.substring(path.lastIndexOf('/') + 1).strip();
        List<PropertyDesign> properties = new ArrayList<>();
        Map<String, PropertySource> mapped = new TreeMap<>();
        for (FoundTag tag : found) {
            String name = tag.info().name();
            for (int n = 2; mapped.containsKey(name); n++) {
                name = tag.info().name() + " " + n;
            }
            properties.add(new PropertyDesign(
                    name, tag.info().kind(), tag.info().unit(), true, tag.info().description()));
            mapped.put(name, PropertySource.FromTag.of(tag.ref()));
        }
        EquipmentClassDefinition type = new EquipmentClassDefinition(
                Definitions.newId(),
                definitions.freeName(EquipmentClassDefinition.class, "", base + " class"),
                "",
                properties);
        drafts.edit(type, drafts.revision(type.id()), by.getName());
        EquipmentDefinition machine = new EquipmentDefinition(
                Definitions.newId(),
                definitions.freeName(EquipmentDefinition.class, "", base),
                "",
                type.id(),
                path.contains(" / ") ? path.substring(0, path.lastIndexOf(" / ")) : "",
                mapped);
        drafts.edit(machine, drafts.revision(machine.id()), by.getName());
        flash.addFlashAttribute(
                "said",
                "A class and a first piece of equipment are drafted from these tags. Change their names, or let others that look alike follow.");
        return "redirect:/plant/equipment/" + machine.id() + "/edit";
    }
}
