package dachshund.web.destination;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkTest;
import dachshund.core.source.SettingField;
import dachshund.engine.Engine;
import dachshund.web.definition.Definitions;
import dachshund.web.setting.SettingsForm;
import dachshund.web.definition.Draft;
import dachshund.web.records.NewRecorder;
import java.security.Principal;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
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

/** Pages of destinations: add, test, change, remove. A new one may be added on the way from a recorder. */
@Controller
@RequestMapping("/records/destinations")
class DestinationController {

    private static final Duration TEST_LIMIT = Duration.ofSeconds(5);

    private final Definitions definitions;
    private final Engine engine;
    private final SecretBox secrets;
    private final NewRecorder newRecorder;

    /** What a form holds while it is being filled. */
    public record Form(String name, String description, SettingsForm values) {
    }

    DestinationController(Definitions definitions, Engine engine, SecretBox secrets, NewRecorder newRecorder) {
        this.definitions = definitions;
        this.engine = engine;
        this.secrets = secrets;
        this.newRecorder = newRecorder;
    }

    private StoreKind kind() {
        return engine.storeKind("mariadb");
    }

    @GetMapping
    String list(Model model) {
        model.addAttribute("destinations", definitions.all(DestinationDefinition.class));
        model.addAttribute("drafts", definitions.drafts().stream().map(Draft::id).toList());
        model.addAttribute("held", definitions.all(DestinationDefinition.class).stream()
                .collect(Collectors.toMap(Definition::id, destination -> engine.held(destination.id()))));
        return "destination/destinations";
    }

    @GetMapping("/new")
    String fresh(@RequestParam(defaultValue = "") String recorder, Model model) {
        return form(model, new Form("", "", SettingsForm.initial(kind().settings())), Map.of(), "", recorder, 0);
    }

    private String form(Model model, Form form, Map<String, String> problems, String id, String recorder, int seen) {
        model.addAttribute("kind", kind());
        model.addAttribute("form", form);
        model.addAttribute("problems", problems);
        model.addAttribute("id", id);
        model.addAttribute("seen", seen);
        model.addAttribute("recorder", recorder);
        return "destination/destination-form";
    }

    @GetMapping("/{id}")
    String edit(@PathVariable String id, Model model) {
        DestinationDefinition destination = definitions.destination(id).orElseThrow();
        model.addAttribute("users", definitions.users(id));
        return form(model, new Form(destination.name(), destination.description(), SettingsForm.of(kind().settings(), destination.settings())), Map.of(), id, "",
                definitions.draft(id).map(Draft::revision).orElse(0));
    }

    private Form read(Map<String, String> all) {
        SettingsForm values = SettingsForm.read(kind().settings(), all, secrets);
        String name = all.getOrDefault("name", "").strip();
        return new Form(name.isEmpty() ? values.value("database") : name, all.getOrDefault("description", "").strip(), values);
    }

    @PostMapping
    String save(@RequestParam Map<String, String> all, @RequestParam(defaultValue = "") String id, @RequestParam(defaultValue = "") String recorder,
                @RequestParam(defaultValue = "0") int seen, Principal by, Model model, RedirectAttributes flash) {
        Form form = read(all);
        Map<String, String> problems = new TreeMap<>(SettingField.problems(kind().settings(), form.values().settings()));
        String nameProblem = definitions.nameProblem(Definition.Kind.DESTINATION, id, form.name());
        if (!nameProblem.isEmpty()) {
            problems.put("name", nameProblem);
        }
        if (!problems.isEmpty()) {
            return form(model, form, problems, id, recorder, seen);
        }
        String used = id.isEmpty() ? Definitions.newId() : id;
        DestinationDefinition destination = new DestinationDefinition(used, form.name(), form.description(), kind().id(),
                form.values().sealed(definitions.destination(id).map(DestinationDefinition::settings).orElse(Map.of()), secrets));
        LinkTest test = all.containsKey("anyway") ? LinkTest.good("Not tested.", "") : test(destination);
        if (!test.worked() || all.containsKey("test")) {
            model.addAttribute("mayAnyway", !test.worked());
            model.addAttribute("test", test);
            return form(model, form, test.worked() ? Map.of() : Map.of(test.field(), test.sentence()), id, recorder, seen);
        }
        definitions.edit(destination, seen, by.getName());
        flash.addFlashAttribute("said", test.sentence());
        if (!recorder.isEmpty()) {
            RecorderDefinition asking = definitions.find(RecorderDefinition.class, recorder).orElseThrow();
            definitions.edit(newRecorder.withWhere(asking, used), definitions.draft(recorder).map(Draft::revision).orElse(0), by.getName());
            return "redirect:/records/" + recorder;
        }
        return "redirect:/records/destinations";
    }

    private LinkTest test(DestinationDefinition destination) {
        try (RowStore store = engine.openStore(destination)) {
            return store.test(TEST_LIMIT);
        }
    }

    @PostMapping("/{id}/test")
    String testNow(@PathVariable String id, Model model) {
        model.addAttribute("test", test(definitions.destination(id).orElseThrow()));
        return "page/parts :: test";
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        List<Definition> users = definitions.users(id);
        long held = engine.held(id);
        if (!users.isEmpty() || held > 0) {
            flash.addFlashAttribute("problem", users.isEmpty() ? held + " rows are still held for it. They would have nowhere to go."
                    : "This destination is used by " + users.stream().map(Definition::name).collect(Collectors.joining(", ")) + ".");
            return "redirect:/records/destinations/" + id;
        }
        definitions.remove(id, by.getName());
        return "redirect:/records/destinations";
    }
}
