package dachshund.web.database;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.destination.StoreKind;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TablesKind;
import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkTest;
import dachshund.core.source.SettingField;
import dachshund.engine.Engine;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.reach.Reaching;
import dachshund.office.reader.Databases;
import dachshund.web.certificate.Authorities;
import dachshund.web.design.DesignLists;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.design.Removal;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.setting.SettingsForm;
import java.security.Principal;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Pages of read-only databases: add, test, change, remove. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/review/databases")
class DatabaseController {

    private static final String PAGE = "/review/databases";

    private final Definitions definitions;
    private final Drafts drafts;
    private final Removal removal;
    private final Databases databases;
    private final Engine engine;
    private final Reaching reaching;
    private final SecretBox secrets;
    private final Seals seals;
    private final Authorities authorities;
    private final DesignLists lists;

    /** What a form holds while it is being filled. */
    public record Form(String id, StoreKind kind, String name, String description, SettingsForm values, int seen) {}

    DatabaseController(
            Definitions definitions,
            Drafts drafts,
            Removal removal,
            Databases databases,
            Engine engine,
            Reaching reaching,
            SecretBox secrets,
            Authorities authorities,
            DesignLists lists) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.removal = removal;
        this.databases = databases;
        this.engine = engine;
        this.reaching = reaching;
        this.secrets = secrets;
        this.seals = new Seals(secrets);
        this.authorities = authorities;
        this.lists = lists;
    }

    private DatabaseDefinition database(String id) {
        return definitions
                .find(DatabaseDefinition.class, id)
                .orElseThrow(() -> new IllegalArgumentException("This database is not there any more."));
    }

    @GetMapping
    String list(Asked asked, Model model) {
        lists.show(asked.query("DATABASE"), model);
        model.addAttribute(
                "destinations",
                databases.all().stream()
                        .filter(DestinationDefinition.class::isInstance)
                        .toList());
        return "database/databases";
    }

    @GetMapping("/new")
    String fresh(@RequestParam(defaultValue = "mariadb") String kind, Model model) {
        StoreKind of = engine.storeKind(kind);
        return show(new Form("", of, "", "", SettingsForm.initial(DatabaseDefinition.fields(of)), 0), Map.of(), model);
    }

    @GetMapping("/{id}")
    String edit(@PathVariable String id, Model model) {
        DatabaseDefinition database = database(id);
        StoreKind kind = engine.storeKind(database.store());
        model.addAttribute("users", definitions.users(id));
        return show(
                new Form(
                        id,
                        kind,
                        database.name(),
                        database.description(),
                        SettingsForm.of(DatabaseDefinition.fields(kind), database.settings()),
                        drafts.revision(id)),
                Map.of(),
                model);
    }

    private String show(Form form, Map<String, String> problems, Model model) {
        model.addAttribute(
                "kinds",
                engine.storeKinds().stream()
                        .filter(TablesKind.class::isInstance)
                        .toList());
        model.addAttribute("form", form);
        model.addAttribute("problems", problems);
        return "database/form";
    }

    @PostMapping
    String save(
            @RequestParam Map<String, String> all,
            @RequestParam(defaultValue = "") String id,
            @RequestParam(defaultValue = "0") int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        StoreKind kind = engine.storeKind(
                id.isEmpty()
                        ? all.getOrDefault("kind", "mariadb")
                        : database(id).store());
        List<SettingField> fields = DatabaseDefinition.fields(kind);
        SettingsForm values = SettingsForm.read(fields, all, secrets);
        String typed = all.getOrDefault("name", "").strip();
        String name = !typed.isEmpty()
                ? typed
                : values.value("database").isEmpty() ? values.value("file") : values.value("database");
        Form form = new Form(id, kind, name, all.getOrDefault("description", "").strip(), values, seen);
        String used = id.isEmpty() ? Definitions.newId() : id;
        Map<String, String> before = id.isEmpty() ? Map.of() : database(id).settings();
        Map<String, String> problems = new TreeMap<>(SettingField.problems(fields, values.settings()));
        problems.putAll(values.askedAgain(used, before, seals));
        String nameProblem = definitions.nameProblem(DatabaseDefinition.class, id, name);
        if (!nameProblem.isEmpty()) {
            problems.put("name", nameProblem);
        }
        if (!problems.isEmpty()) {
            return show(form, problems, model);
        }
        DatabaseDefinition database = new DatabaseDefinition(
                used, name, form.description(), kind.id(), values.sealed(used, before, seals, secrets));
        authorities.noteAccepted(all, "read-only database " + name, by.getName());
        LinkTest test = all.containsKey("anyway") ? LinkTest.good("Saved, not tested.", "") : reaching.test(database);
        if (!test.worked() || all.containsKey("test")) {
            model.addAttribute("mayAnyway", !test.worked());
            model.addAttribute("test", test);
            model.addAttribute("unknown", Authorities.unknown(test).orElse(null));
            return show(form, test.worked() ? Map.of() : Map.of(test.field(), test.sentence()), model);
        }
        drafts.edit(database, seen, by.getName());
        flash.addFlashAttribute("said", test.sentence());
        return "redirect:" + PAGE + (all.containsKey("anyway") ? "" : "/" + used + "/tables");
    }

    @PostMapping("/{id}/test")
    String testNow(@PathVariable String id, Model model) {
        model.addAttribute("test", reaching.test(database(id)));
        return "page/parts :: test";
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        return removal.remove(id, "database", PAGE, by.getName(), flash);
    }
}
