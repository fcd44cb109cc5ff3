package dachshund.web.destination;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkTest;
import dachshund.core.source.SettingField;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.reach.Reaching;
import dachshund.web.certificate.Authorities;
import dachshund.web.design.DesignLists;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.records.NewRecorder;
import dachshund.web.setting.SettingsForm;
import java.security.Principal;
import java.util.List;
import java.util.Map;
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
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/destinations")
class DestinationController {

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final Reaching reaching;
    private final SecretBox secrets;
    private final Seals seals;
    private final NewRecorder newRecorder;
    private final Authorities authorities;
    private final DesignLists lists;

    /** What a form holds while it is being filled. */
    public record Form(String name, String description, SettingsForm values) {}

    DestinationController(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            Reaching reaching,
            SecretBox secrets,
            NewRecorder newRecorder,
            Authorities authorities,
            DesignLists lists) {
        this.lists = lists;
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.reaching = reaching;
        this.secrets = secrets;
        this.seals = new Seals(secrets);
        this.newRecorder = newRecorder;
        this.authorities = authorities;
    }

    private StoreKind kind(String id, String otherwise) {
        return engine.storeKind(
                id.isEmpty()
                        ? otherwise
                        : definitions.destination(id).orElseThrow().store());
    }

    @GetMapping
    String list(Asked asked, Model model) {
        lists.show(asked.query("DESTINATION"), model);
        return "destination/destinations";
    }

    @GetMapping("/new")
    String fresh(
            @RequestParam(defaultValue = "") String recorder,
            @RequestParam(defaultValue = "mariadb") String kind,
            Model model) {
        StoreKind of = engine.storeKind(kind);
        return form(model, of, new Form("", "", SettingsForm.initial(of.settings())), Map.of(), "", recorder, 0);
    }

    private String form(
            Model model,
            StoreKind kind,
            Form form,
            Map<String, String> problems,
            String id,
            String recorder,
            int seen) {
        model.addAttribute("kind", kind);
        model.addAttribute("browse", !id.isEmpty() && !kind.statementsOnly());
        model.addAttribute("kinds", engine.storeKinds());
        model.addAttribute("form", form);
        model.addAttribute("problems", problems);
        model.addAttribute("id", id);
        model.addAttribute("seen", seen);
        // It stands in an address of the page: what is no recorder is none.
        model.addAttribute(
                "recorder", definitions.find(RecorderDefinition.class, recorder).isPresent() ? recorder : "");
        return "destination/destination-form";
    }

    @GetMapping("/{id}")
    String edit(@PathVariable String id, Model model) {
        DestinationDefinition destination = definitions.destination(id).orElseThrow();
        model.addAttribute("users", definitions.users(id));
        StoreKind kind = engine.storeKind(destination.store());
        return form(
                model,
                kind,
                new Form(
                        destination.name(),
                        destination.description(),
                        SettingsForm.of(kind.settings(), destination.settings())),
                Map.of(),
                id,
                "",
                drafts.revision(id));
    }

    private Form read(StoreKind kind, Map<String, String> all) {
        SettingsForm values = SettingsForm.read(kind.settings(), all, secrets);
        String name = all.getOrDefault("name", "").strip();
        String usual = List.of("database", "folder", "file").stream()
                .map(values::value)
                .filter(each -> !each.isEmpty())
                .findFirst()
                .orElse("");
        return new Form(
                name.isEmpty() ? usual : name,
                all.getOrDefault("description", "").strip(),
                values);
    }

    @PostMapping
    String save(
            @RequestParam Map<String, String> all,
            @RequestParam(defaultValue = "") String id,
            @RequestParam(defaultValue = "") String recorder,
            @RequestParam(defaultValue = "0") int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        StoreKind kind = kind(id, all.getOrDefault("kind", "mariadb"));
        Form form = read(kind, all);
        Map<String, String> problems = new TreeMap<>(
                SettingField.problems(kind.settings(), form.values().settings()));
        String used = id.isEmpty() ? Definitions.newId() : id;
        Map<String, String> before =
                definitions.destination(id).map(DestinationDefinition::settings).orElse(Map.of());
        problems.putAll(form.values().askedAgain(used, before, seals));
        String nameProblem = definitions.nameProblem(DestinationDefinition.class, id, form.name());
        if (!nameProblem.isEmpty()) {
            problems.put("name", nameProblem);
        }
        if (!problems.isEmpty()) {
            return form(model, kind, form, problems, id, recorder, seen);
        }
        DestinationDefinition destination = new DestinationDefinition(
                used, form.name(), form.description(), kind.id(), form.values().sealed(used, before, seals, secrets));
        authorities.noteAccepted(all, "destination " + form.name(), by.getName());
        LinkTest test = all.containsKey("anyway") || kind.statementsOnly()
                ? LinkTest.good("Saved, not tested.", "")
                : reaching.test(destination, all.containsKey("create"));
        if (!test.worked() || all.containsKey("test")) {
            model.addAttribute("mayAnyway", !test.worked());
            model.addAttribute("test", test);
            model.addAttribute("unknown", Authorities.unknown(test).orElse(null));
            model.addAttribute("mayCreate", !test.worked() && test.field().equals("database"));
            return form(
                    model,
                    kind,
                    form,
                    test.worked() ? Map.of() : Map.of(test.field(), test.sentence()),
                    id,
                    recorder,
                    seen);
        }
        drafts.edit(destination, seen, by.getName());
        flash.addFlashAttribute("said", test.sentence());
        if (!recorder.isEmpty()) {
            RecorderDefinition asking =
                    definitions.find(RecorderDefinition.class, recorder).orElseThrow();
            drafts.edit(newRecorder.withWhere(asking, used), drafts.revision(recorder), by.getName());
            return "redirect:/records/" + recorder;
        }
        return "redirect:/records/destinations";
    }

    /** What is there: databases, tables with their columns, procedures. */
    @GetMapping("/{id}/browse")
    String browse(@PathVariable String id, @RequestParam(defaultValue = "") String table, Model model) {
        DestinationDefinition destination = definitions.destination(id).orElseThrow();
        model.addAttribute("destination", destination);
        model.addAttribute("files", engine.storeKind(destination.store()).files());
        model.addAttribute("table", table);
        try (RowStore store = reaching.store(destination)) {
            model.addAttribute("databases", store.databases());
            model.addAttribute("tables", store.tables());
            model.addAttribute("procedures", store.procedures());
            model.addAttribute(
                    "described", table.isEmpty() ? null : store.describe(table).orElse(null));
        } catch (StoreProblem away) {
            model.addAttribute("trouble", away.getMessage());
        }
        return "destination/browse";
    }

    @PostMapping("/{id}/test")
    String testNow(@PathVariable String id, Model model) {
        model.addAttribute("test", reaching.test(definitions.destination(id).orElseThrow()));
        return "page/parts :: test";
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        List<Definition> users = definitions.users(id);
        long held = engine.held(id);
        if (!users.isEmpty() || held > 0) {
            flash.addFlashAttribute(
                    "problem",
                    users.isEmpty()
                            ? held + " rows are still held for it. They would have nowhere to go."
                            : "This destination is used by "
                                    + users.stream().map(Definition::name).collect(Collectors.joining(", ")) + ".");
            return "redirect:/records/destinations/" + id;
        }
        drafts.remove(id, by.getName());
        return "redirect:/records/destinations";
    }
}
