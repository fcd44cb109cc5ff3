package dachshund.web.plant;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkProblem;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.core.source.SettingField;
import dachshund.core.tag.TagInfo;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.source.SourceRun;
import dachshund.web.definition.Definitions;
import dachshund.web.definition.Draft;
import java.security.Principal;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Pages of one source: add, test, see its state, take tags, change, remove. */
@Controller
@RequestMapping("/plant/sources")
class SourceController {

    private static final Duration TEST_LIMIT = Duration.ofSeconds(5);
    private static final Duration FASTEST = Duration.ofMillis(100);
    private static final Duration SLOWEST = Duration.ofHours(1);

    private final Definitions definitions;
    private final Engine engine;

    SourceController(Definitions definitions, Engine engine) {
        this.definitions = definitions;
        this.engine = engine;
    }

    /** What a form holds while it is being filled, right or wrong. */
    public record Form(String name, String description, String rate, Map<String, String> settings) {
    }

    private LinkKind kind() {
        return engine.linkKinds().get(0);
    }

    @GetMapping("/new")
    String fresh(Model model) {
        Map<String, String> initial = kind().settings().stream().collect(Collectors.toMap(SettingField::name, SettingField::initial));
        return form(model, new Form("", "", "1 s", initial), Map.of(), "");
    }

    private String form(Model model, Form form, Map<String, String> problems, String id) {
        model.addAttribute("kind", kind());
        model.addAttribute("form", form);
        model.addAttribute("problems", problems);
        model.addAttribute("id", id);
        return "plant/source-form";
    }

    private Form read(Map<String, String> all) {
        Map<String, String> settings = new TreeMap<>();
        kind().settings().forEach(field -> settings.put(field.name(), all.getOrDefault(field.name(), "").strip()));
        return new Form(all.getOrDefault("name", "").strip(), all.getOrDefault("description", "").strip(), all.getOrDefault("rate", "1 s"), settings);
    }

    private Map<String, String> problems(Form form) {
        Map<String, String> problems = new TreeMap<>(SettingField.problems(kind().settings(), form.settings()));
        try {
            Duration rate = PeriodText.read(form.rate());
            if (rate.compareTo(FASTEST) < 0 || rate.compareTo(SLOWEST) > 0) {
                problems.put("rate", "A source is asked every 100 ms to 1 h.");
            }
        } catch (IllegalArgumentException problem) {
            problems.put("rate", problem.getMessage());
        }
        return problems;
    }

    private SourceDefinition definition(Form form, String id, List<TagInfo> tags) {
        return new SourceDefinition(id, form.name(), form.description(), kind().id(), form.settings(), PeriodText.read(form.rate()), tags);
    }

    private LinkTest test(Form form) {
        try (PlantLink link = kind().open(form.settings(), Duration.ofSeconds(1), engine.clock())) {
            return link.test(TEST_LIMIT);
        }
    }

    @PostMapping
    String add(@RequestParam Map<String, String> all, Principal by, Model model, RedirectAttributes flash) {
        return save(read(all), Definitions.newId(), "", all.containsKey("anyway"), 0, by, model, flash);
    }

    @GetMapping("/{id}/edit")
    String edit(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        model.addAttribute("seen", definitions.draft(id).map(Draft::revision).orElse(0));
        return form(model, new Form(source.name(), source.description(), PeriodText.write(source.rate()), source.settings()), Map.of(), id);
    }

    @PostMapping("/{id}")
    String change(@PathVariable String id, @RequestParam Map<String, String> all, @RequestParam int seen, Principal by, Model model, RedirectAttributes flash) {
        model.addAttribute("seen", seen);
        return save(read(all), id, id, all.containsKey("anyway"), seen, by, model, flash);
    }

    private String save(Form form, String id, String knownId, boolean anyway, int seen, Principal by, Model model, RedirectAttributes flash) {
        Map<String, String> problems = problems(form);
        if (!problems.isEmpty()) {
            return form(model, form, problems, knownId);
        }
        LinkTest test = anyway ? LinkTest.good("Not tested.", "") : test(form);
        if (!test.worked()) {
            model.addAttribute("mayAnyway", true);
            return form(model, form, Map.of(test.field(), test.sentence()), knownId);
        }
        Form named = form.name().isEmpty() ? new Form(test.ownName(), form.description(), form.rate(), form.settings()) : form;
        String nameProblem = definitions.nameProblem(Definition.Kind.SOURCE, id, named.name());
        if (!nameProblem.isEmpty()) {
            return form(model, named, Map.of("name", nameProblem), knownId);
        }
        List<TagInfo> tags = definitions.find(SourceDefinition.class, id).map(SourceDefinition::tags).orElse(List.of());
        definitions.edit(definition(named, id, tags), seen, by.getName());
        flash.addFlashAttribute("said", test.sentence());
        return "redirect:/plant/sources/" + id;
    }

    private SourceDefinition source(String id) {
        return definitions.find(SourceDefinition.class, id).orElseThrow();
    }

    @GetMapping("/{id}")
    String show(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        model.addAttribute("source", source);
        model.addAttribute("rate", PeriodText.write(source.rate()));
        model.addAttribute("kind", kind());
        model.addAttribute("users", definitions.users(id));
        model.addAttribute("draft", definitions.draft(id).orElse(null));
        state(id, model);
        return "plant/source";
    }

    private void state(String id, Model model) {
        SourceRun run = engine.sources().find(id).orElseThrow();
        model.addAttribute("run", run);
        model.addAttribute("status", run.status());
    }

    @GetMapping("/{id}/state")
    String stateOnly(@PathVariable String id, Model model) {
        model.addAttribute("source", source(id));
        state(id, model);
        return "plant/source :: state";
    }

    @PostMapping("/{id}/test")
    String testNow(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        try (PlantLink link = engine.sources().open(source)) {
            model.addAttribute("test", link.test(TEST_LIMIT));
        }
        return "page/parts :: test";
    }

    @GetMapping("/{id}/offers")
    String offers(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        Set<String> taken = source.tags().stream().map(TagInfo::address).collect(Collectors.toSet());
        model.addAttribute("source", source);
        try (PlantLink link = engine.sources().open(source)) {
            List<TagInfo> all = Offers.all(link);
            Map<String, List<TagInfo>> byPath = all.stream().collect(Collectors.groupingBy(TagInfo::path, LinkedHashMap::new, Collectors.toList()));
            model.addAttribute("byPath", byPath);
            model.addAttribute("count", all.size());
            model.addAttribute("more", all.size() >= Offers.MOST);
            model.addAttribute("taken", taken);
            model.addAttribute("seen", definitions.draft(id).map(Draft::revision).orElse(0));
        } catch (LinkProblem problem) {
            model.addAttribute("problem", problem.getMessage());
        }
        return "plant/offers";
    }

    @PostMapping("/{id}/take")
    String take(@PathVariable String id, @RequestParam(name = "address", required = false) List<String> addresses,
                @RequestParam(defaultValue = "false") boolean all, @RequestParam int seen, Principal by, RedirectAttributes flash) throws LinkProblem {
        SourceDefinition source = source(id);
        Set<String> wanted = addresses == null ? Set.of() : Set.copyOf(addresses);
        List<TagInfo> offered;
        try (PlantLink link = engine.sources().open(source)) {
            offered = Offers.all(link);
        }
        List<TagInfo> taken = offered.stream().filter(tag -> all || wanted.contains(tag.address())).toList();
        definitions.edit(source.withTags(taken), seen, by.getName());
        flash.addFlashAttribute("said", taken.size() + " tags are taken from " + source.name() + ". Their values appear below as they arrive.");
        return "redirect:/plant?source=" + id;
    }

    @org.springframework.web.bind.annotation.ExceptionHandler(LinkProblem.class)
    String sourceAway(LinkProblem problem, jakarta.servlet.http.HttpServletRequest request, RedirectAttributes flash) {
        flash.addFlashAttribute("problem", problem.getMessage());
        return "redirect:" + request.getServletPath().replaceAll("/[a-z]+$", "");
    }

    @PostMapping("/{id}/undo")
    String undo(@PathVariable String id) {
        definitions.undo(id);
        return definitions.find(id).isPresent() ? "redirect:/plant/sources/" + id : "redirect:/plant";
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        List<Definition> users = definitions.users(id);
        if (!users.isEmpty()) {
            flash.addFlashAttribute("problem", "This source is used by " + users.stream().map(Definition::name).collect(Collectors.joining(", "))
                    + ". Remove its tags there first.");
            return "redirect:/plant/sources/" + id;
        }
        String name = source(id).name();
        definitions.remove(id, by.getName());
        flash.addFlashAttribute("said", name + " is removed" + (definitions.draft(id).isPresent() ? " with the next release." : "."));
        return "redirect:/plant";
    }
}
