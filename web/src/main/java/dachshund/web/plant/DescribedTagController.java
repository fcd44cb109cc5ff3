package dachshund.web.plant;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaFunctions;
import dachshund.core.formula.FormulaTag;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.reach.Reaching;
import dachshund.office.tag.TagFinder;
import dachshund.web.page.Shown;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Collectors;
import org.springframework.http.ContentDisposition;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The tags of a source that are described by a person: a table, a form for one of them, CSV in and out. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/sources/{id}/tags")
class DescribedTagController {

    private static final int PAGE = 200;
    private static final Duration LOOK_LIMIT = Duration.ofSeconds(3);

    private final Definitions definitions;
    private final Drafts drafts;
    private final OwnSources own;
    private final Engine engine;
    private final Reaching reaching;
    private final Shown shown;
    private final TagFinder finder;

    /** A tag with its description column by column and its value now. */
    public record Line(TagInfo tag, Map<String, String> values, String value, String quality) {}

    /** How a value would read if it were described a little differently. */
    public record Variant(String words, String value, boolean chosen) {}

    DescribedTagController(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            Reaching reaching,
            Shown shown,
            TagFinder finder,
            OwnSources own) {
        this.own = own;
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.reaching = reaching;
        this.shown = shown;
        this.finder = finder;
    }

    private SourceDefinition source(String id) {
        return own.find(id).orElseThrow();
    }

    private LinkKind kind(SourceDefinition source) {
        return engine.sources().kind(source.link());
    }

    private int seen(String id) {
        return drafts.revision(id);
    }

    @GetMapping
    String table(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String q,
            @RequestParam(defaultValue = "1") int page,
            Model model) {
        SourceDefinition source = source(id);
        LinkKind kind = kind(source);
        List<TagInfo> found = source.tags().stream()
                .filter(tag -> (tag.fullName() + " "
                                + String.join(" ", tag.how().values()))
                        .toLowerCase(Locale.ROOT)
                        .contains(q.toLowerCase(Locale.ROOT).strip()))
                .toList();
        int pages = Math.max(1, (found.size() + PAGE - 1) / PAGE);
        int at = Math.max(1, Math.min(page, pages));
        List<Line> lines = found.subList((at - 1) * PAGE, Math.min(found.size(), at * PAGE)).stream()
                .map(tag -> {
                    TagValue value =
                            engine.tags().entry(new TagRef(id, tag.address())).value();
                    return new Line(
                            tag,
                            described(kind, tag),
                            shown.value(value, tag) + (tag.unit().isEmpty() ? "" : " " + tag.unit()),
                            value.quality().sentence());
                })
                .toList();
        model.addAttribute("source", source);
        model.addAttribute("kind", kind);
        model.addAttribute("fields", kind.tagFields());
        model.addAttribute("lines", lines);
        model.addAttribute("q", q);
        model.addAttribute("total", found.size());
        model.addAttribute("page", at);
        model.addAttribute("pages", pages);
        model.addAttribute("seen", seen(id));
        return "plant/described";
    }

    /** The fields of a description as a person reads them. */
    private Map<String, String> described(LinkKind kind, TagInfo tag) {
        Map<String, String> values = new LinkedHashMap<>();
        boolean formula = kind.id().equals(FormulaTag.LINK);
        for (SettingField field : kind.tagFields()) {
            values.put(
                    field.name(),
                    formula && field.name().equals(FormulaTag.INPUTS)
                            ? FormulaInputs.words(tag.how().getOrDefault(FormulaTag.INPUTS, ""), finder)
                            : kind.shown(field, tag));
        }
        return values;
    }

    @GetMapping("/edit")
    String edit(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String address,
            @RequestParam(defaultValue = "") String like,
            Model model) {
        SourceDefinition source = source(id);
        LinkKind kind = kind(source);
        Map<String, String> values = new LinkedHashMap<>();
        kind.tagFields().forEach(field -> values.put(field.name(), field.initial()));
        source.tag(address.isEmpty() ? like : address).ifPresent(tag -> values.putAll(DescribedTags.values(kind, tag)));
        if (address.isEmpty()) {
            values.remove("name");
        }
        return form(model, source, address, values, "", seen(id));
    }

    private String form(
            Model model,
            SourceDefinition source,
            String address,
            Map<String, String> values,
            String problem,
            int seen) {
        model.addAttribute("source", source);
        model.addAttribute("kind", kind(source));
        model.addAttribute("address", address);
        model.addAttribute("values", values);
        model.addAttribute("kinds", DataKind.values());
        model.addAttribute("fieldProblem", problem);
        model.addAttribute("seen", seen);
        if (source.link().equals(FormulaTag.LINK)) {
            model.addAttribute("help", FormulaFunctions.HELP);
            model.addAttribute("inputs", FormulaInputs.named(values.getOrDefault(FormulaTag.INPUTS, ""), finder));
            return "plant/formula";
        }
        return "plant/described-tag";
    }

    @PostMapping
    String save(
            @PathVariable String id,
            @RequestParam Map<String, String> all,
            @RequestParam(defaultValue = "") String address,
            @RequestParam int seen,
            @RequestParam(name = "input-name", required = false) List<String> inputNames,
            @RequestParam(name = "input-tag", required = false) List<String> inputTags,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        SourceDefinition source = source(id);
        Map<String, String> values = new LinkedHashMap<>(all);
        if (inputTags != null) {
            values.put(FormulaTag.INPUTS, FormulaInputs.lines(inputNames, inputTags));
        }
        try {
            TagInfo tag = DescribedTags.tag(
                    kind(source), address.isEmpty() ? TagInfo.freeAddress(source.tags()) : address, values);
            List<TagInfo> tags = new ArrayList<>(source.tags());
            if (tags.stream()
                    .anyMatch(other -> !other.address().equals(tag.address())
                            && other.fullName().equalsIgnoreCase(tag.fullName()))) {
                throw new IllegalArgumentException("There is a tag " + tag.fullName() + " in this source already.");
            }
            int at = tags.indexOf(source.tag(tag.address()).orElse(null));
            if (at < 0) {
                tags.add(tag);
            } else {
                tags.set(at, tag);
            }
            drafts.edit(source.withTags(tags), seen, by.getName());
            flash.addFlashAttribute(
                    "said",
                    tag.name() + " is "
                            + (at < 0
                                    ? "added."
                                    : "changed"
                                            + (definitions.live(id).isPresent()
                                                    ? "; what runs changes with the next release."
                                                    : ".")));
        } catch (IllegalArgumentException problem) {
            return form(model, source, address, values, problem.getMessage(), seen);
        }
        return all.containsKey("another")
                ? "redirect:/plant/sources/" + id + "/tags/edit?like=" + address
                : "redirect:/plant/sources/" + id + "/tags";
    }

    @PostMapping("/remove")
    String remove(
            @PathVariable String id,
            @RequestParam String address,
            @RequestParam int seen,
            Principal by,
            RedirectAttributes flash) {
        SourceDefinition source = source(id);
        List<Definition> users = definitions.users(new TagRef(id, address));
        if (users.isEmpty()) {
            drafts.edit(
                    source.withTags(source.tags().stream()
                            .filter(tag -> !tag.address().equals(address))
                            .toList()),
                    seen,
                    by.getName());
        } else {
            flash.addFlashAttribute(
                    "problem",
                    "This tag is used by "
                            + users.stream().map(Definition::name).collect(Collectors.joining(", "))
                            + ". Remove it there first.");
        }
        return "redirect:/plant/sources/" + id + "/tags";
    }

    /** What the device says now, read as described in the form, and as its variants would read it. */
    @PostMapping("/look")
    String look(@PathVariable String id, @RequestParam Map<String, String> all, Model model) {
        SourceDefinition source = source(id);
        LinkKind kind = kind(source);
        try {
            Map<String, String> values = new LinkedHashMap<>(all);
            values.putIfAbsent("name", "look");
            if (values.get("name").isBlank()) {
                values.put("name", "look");
            }
            Map<String, TagInfo> variants = variants(kind, values);
            try (PlantLink link = reaching.link(source)) {
                Map<String, TagValue> read = link.read(variants.values(), LOOK_LIMIT);
                List<Variant> shownVariants = new ArrayList<>();
                variants.forEach((words, tag) -> {
                    TagValue value = read.getOrDefault(tag.address(), TagValue.NONE);
                    shownVariants.add(new Variant(
                            words,
                            value.quality().isBad() ? value.quality().words() : shown.value(value),
                            tag.address().equals("look")));
                });
                model.addAttribute("variants", shownVariants);
            }
        } catch (IllegalArgumentException | LinkProblem problem) {
            model.addAttribute("lookProblem", problem.getMessage());
        }
        return "plant/described-tag :: look";
    }

    /** The tag of the form, and where the description has a word order, the tag in each of them. */
    private static Map<String, TagInfo> variants(LinkKind kind, Map<String, String> values) {
        Map<String, TagInfo> variants = new LinkedHashMap<>();
        SettingField order = kind.tagFields().stream()
                .filter(field -> field.name().equals("order"))
                .findFirst()
                .orElse(null);
        if (order == null) {
            variants.put("", DescribedTags.tag(kind, "look", values));
            return variants;
        }
        String chosen = values.getOrDefault("order", "").isEmpty() ? order.initial() : values.get("order");
        for (SettingField.Choice choice : order.choices()) {
            Map<String, String> with = new LinkedHashMap<>(values);
            with.put("order", choice.value());
            variants.put(
                    choice.words(),
                    DescribedTags.tag(kind, choice.value().equals(chosen) ? "look" : "look-" + choice.value(), with));
        }
        return variants;
    }

    @GetMapping("/csv")
    ResponseEntity<byte[]> csv(@PathVariable String id) {
        SourceDefinition source = source(id);
        return ResponseEntity.ok()
                .contentType(new MediaType("text", "csv", StandardCharsets.UTF_8))
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(source.name() + " tags.csv", StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(DescribedTags.csv(kind(source), source.tags()).getBytes(StandardCharsets.UTF_8));
    }

    @GetMapping("/csv-in")
    String csvForm(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        model.addAttribute("source", source);
        model.addAttribute("kind", kind(source));
        model.addAttribute("seen", seen(id));
        model.addAttribute("text", "");
        return "plant/described-csv";
    }

    /** All lines or none: nothing is taken while one line has a problem. */
    @PostMapping("/csv-in")
    String csvIn(
            @PathVariable String id,
            @RequestParam String text,
            @RequestParam int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        SourceDefinition source = source(id);
        DescribedTags.Read read = DescribedTags.read(kind(source), source.tags(), text);
        if (!read.problems().isEmpty()) {
            csvForm(id, model);
            model.addAttribute("text", text);
            model.addAttribute("lineProblems", read.problems());
            return "plant/described-csv";
        }
        drafts.edit(source.withTags(read.tags()), seen, by.getName());
        int more = read.tags().size() - source.tags().size();
        flash.addFlashAttribute("said", "The lines are taken: " + more + " new tags, the rest described anew.");
        return "redirect:/plant/sources/" + id + "/tags";
    }
}
