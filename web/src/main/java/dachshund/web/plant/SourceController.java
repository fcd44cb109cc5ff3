package dachshund.web.plant;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkKind;
import dachshund.core.source.LinkTest;
import dachshund.core.source.SettingField;
import dachshund.core.tag.TagInfo;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.source.SourceRun;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.filing.Filed;
import dachshund.office.filing.Filings;
import dachshund.office.reach.Reaching;
import dachshund.web.certificate.Authorities;
import dachshund.web.design.DesignLists;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.setting.SettingsForm;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
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

/** Pages of one source: add, test, see its state, change, pause, copy, remove. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/plant/sources")
class SourceController {

    private static final Duration FASTEST = Duration.ofMillis(50);
    private static final Duration SLOWEST = Duration.ofHours(1);

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final Reaching reaching;
    private final SecretBox secrets;
    private final Seals seals;
    private final Audit audit;
    private final Filings filings;
    private final Authorities authorities;
    private final DesignLists lists;

    SourceController(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            Reaching reaching,
            SecretBox secrets,
            Audit audit,
            Filings filings,
            Authorities authorities,
            DesignLists lists) {
        this.lists = lists;
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.reaching = reaching;
        this.secrets = secrets;
        this.seals = new Seals(secrets);
        this.audit = audit;
        this.filings = filings;
        this.authorities = authorities;
    }

    /** What a form holds while it is being filled, right or wrong. */
    public record Form(
            String name, String description, String rate, String folder, String labels, SettingsForm values) {}

    private SourceDefinition source(String id) {
        return definitions.find(SourceDefinition.class, id).orElseThrow();
    }

    private LinkKind kind(SourceDefinition source) {
        return engine.sources().kind(source.link());
    }

    private int seen(String id) {
        return drafts.revision(id);
    }

    @GetMapping
    String list(Asked asked, Model model) {
        lists.show(asked.query("SOURCE"), model);
        return "plant/sources";
    }

    /** First the kinds to choose from; with one chosen, its form. */
    @GetMapping("/new")
    String fresh(@RequestParam(defaultValue = "") String kind, Model model) {
        if (kind.isEmpty()) {
            model.addAttribute("kinds", engine.linkKinds());
            return "plant/source-kinds";
        }
        LinkKind chosen = engine.sources().kind(kind);
        return form(
                model, chosen, new Form("", "", "1 s", "", "", SettingsForm.initial(chosen.settings())), Map.of(), "");
    }

    private String form(Model model, LinkKind kind, Form form, Map<String, String> problems, String id) {
        model.addAttribute("kind", kind);
        model.addAttribute("form", form);
        model.addAttribute("problems", problems);
        model.addAttribute("id", id);
        return "plant/source-form";
    }

    private Form read(LinkKind kind, Map<String, String> all) {
        return new Form(
                all.getOrDefault("name", "").strip(),
                all.getOrDefault("description", "").strip(),
                all.getOrDefault("rate", "1 s"),
                all.getOrDefault("folder", "").strip(),
                all.getOrDefault("labels", "").strip(),
                SettingsForm.read(kind.settings(), all, secrets));
    }

    private static Map<String, String> problems(LinkKind kind, Form form) {
        Map<String, String> problems = new TreeMap<>(
                SettingField.problems(kind.settings(), form.values().settings()));
        try {
            Duration rate = PeriodText.read(form.rate());
            if (rate.compareTo(FASTEST) < 0 || rate.compareTo(SLOWEST) > 0) {
                problems.put("rate", "A source is asked every 50 ms to 1 h.");
            }
        } catch (IllegalArgumentException problem) {
            problems.put("rate", problem.getMessage());
        }
        try {
            Filed.read(form.folder(), form.labels());
        } catch (IllegalArgumentException problem) {
            problems.put("labels", problem.getMessage());
        }
        return problems;
    }

    @PostMapping
    String add(
            @RequestParam String kind,
            @RequestParam Map<String, String> all,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        LinkKind chosen = engine.sources().kind(kind);
        SourceDefinition empty =
                new SourceDefinition(Definitions.newId(), "", "", kind, Map.of(), Duration.ofSeconds(1), List.of());
        authorities.noteAccepted(all, "source " + all.getOrDefault("name", "").strip(), by.getName());
        return save(chosen, read(chosen, all), empty, "", all.containsKey("anyway"), 0, by, model, flash);
    }

    @GetMapping("/{id}/edit")
    String edit(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        model.addAttribute("seen", seen(id));
        return form(
                model,
                kind(source),
                new Form(
                        source.name(),
                        source.description(),
                        PeriodText.write(source.rate()),
                        filings.of(id).folder(),
                        String.join(", ", filings.of(id).labels()),
                        SettingsForm.of(kind(source).settings(), source.settings())),
                Map.of(),
                id);
    }

    @PostMapping("/{id}")
    String change(
            @PathVariable String id,
            @RequestParam Map<String, String> all,
            @RequestParam int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        model.addAttribute("seen", seen);
        SourceDefinition source = source(id);
        authorities.noteAccepted(all, "source " + source.name(), by.getName());
        return save(
                kind(source), read(kind(source), all), source, id, all.containsKey("anyway"), seen, by, model, flash);
    }

    private String save(
            LinkKind kind,
            Form form,
            SourceDefinition before,
            String knownId,
            boolean anyway,
            int seen,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        Map<String, String> problems = problems(kind, form);
        problems.putAll(form.values().askedAgain(before.id(), before.settings(), seals));
        if (!problems.isEmpty()) {
            return form(model, kind, form, problems, knownId);
        }
        SourceDefinition next = new SourceDefinition(
                before.id(),
                form.name(),
                form.description(),
                kind.id(),
                form.values().sealed(before.id(), before.settings(), seals, secrets),
                PeriodText.read(form.rate()),
                before.tags(),
                before.writing());
        LinkTest test = anyway || !kind.outside()
                ? LinkTest.good(anyway ? "Not tested." : "", kind.title())
                : reaching.test(next);
        if (!test.worked()) {
            model.addAttribute("mayAnyway", true);
            model.addAttribute("unknown", Authorities.unknown(test).orElse(null));
            return form(model, kind, form, Map.of(test.field(), test.sentence()), knownId);
        }
        String name = form.name().isEmpty() && !test.ownName().isBlank()
                ? definitions.freeName(SourceDefinition.class, before.id(), test.ownName())
                : form.name();
        String nameProblem = definitions.nameProblem(SourceDefinition.class, before.id(), name);
        if (!nameProblem.isEmpty()) {
            return form(model, kind, form, Map.of("name", nameProblem), knownId);
        }
        drafts.edit(renamed(next, name), seen, by.getName());
        filings.file(before.id(), Filed.read(form.folder(), form.labels()));
        flash.addFlashAttribute("said", test.sentence());
        return "redirect:/plant/sources/" + before.id();
    }

    private static SourceDefinition renamed(SourceDefinition source, String name) {
        return new SourceDefinition(
                source.id(),
                name,
                source.description(),
                source.link(),
                source.settings(),
                source.rate(),
                source.tags(),
                source.writing());
    }

    @GetMapping("/{id}")
    String show(@PathVariable String id, Model model) {
        SourceDefinition source = source(id);
        model.addAttribute("rate", PeriodText.write(source.rate()));
        model.addAttribute("kind", kind(source));
        model.addAttribute("labels", filings.of(id).labels());
        model.addAttribute("users", definitions.users(id));
        model.addAttribute("draft", definitions.draft(id).orElse(null));
        state(source, model);
        return "plant/source";
    }

    private void state(SourceDefinition source, Model model) {
        SourceRun run = engine.sources().find(source.id()).orElseThrow();
        model.addAttribute("source", source);
        model.addAttribute("run", run);
        model.addAttribute("health", run.health());
        model.addAttribute("status", run.status());
        model.addAttribute("refused", engine.refused(source.id()));
    }

    /** The newest lines of what it said, with times and the server's own words. */
    @GetMapping("/{id}/said")
    String said(@PathVariable String id, Model model) {
        model.addAttribute("lines", engine.sources().find(id).orElseThrow().said());
        return "page/parts :: said";
    }

    @GetMapping("/{id}/state")
    String stateOnly(@PathVariable String id, Model model) {
        state(source(id), model);
        return "plant/source :: state";
    }

    @PostMapping("/{id}/test")
    String testNow(@PathVariable String id, Model model) {
        model.addAttribute("test", reaching.test(source(id)));
        return "page/parts :: test";
    }

    @Needs(Right.RELEASE)
    @PostMapping("/{id}/pause")
    String pause(@PathVariable String id, @RequestParam(defaultValue = "") String why, Principal by) {
        String name = source(id).name();
        engine.sources().pause(id, by.getName(), why.strip());
        audit.note(by.getName(), "paused a source", name + (why.isBlank() ? "" : ": " + why.strip()));
        return "redirect:/plant/sources/" + id;
    }

    @Needs(Right.RELEASE)
    @PostMapping("/{id}/resume")
    String resume(@PathVariable String id, Principal by) {
        String name = source(id).name();
        engine.sources().resume(id);
        audit.note(by.getName(), "resumed a source", name);
        return "redirect:/plant/sources/" + id;
    }

    /** Writing to a plant is switched by an administrator, and comes with the next release. */
    @Needs(Right.OPEN_PLANT)
    @PostMapping("/{id}/writing")
    String writing(@PathVariable String id, @RequestParam boolean on, Principal by, RedirectAttributes flash) {
        drafts.switchWriting(id, on, by.getName());
        flash.addFlashAttribute(
                "said", "Writing to " + source(id).name() + " is " + (on ? "on" : "off") + " with the next release.");
        return "redirect:/plant/sources/" + id;
    }

    @PostMapping("/{id}/duplicate")
    String duplicate(@PathVariable String id, Principal by, RedirectAttributes flash) {
        SourceDefinition source = source(id);
        Definition copy = drafts.duplicate(List.of(id), by.getName()).get(0);
        flash.addFlashAttribute(
                "said", "This is a copy of " + source.name() + " with the same settings and tags. Writing is off.");
        return "redirect:/plant/sources/" + copy.id() + "/edit";
    }

    /** The source as JSON, without its secrets: these can be read by this installation only, and need not travel. */
    @GetMapping("/{id}/export")
    ResponseEntity<byte[]> export(@PathVariable String id) {
        SourceDefinition source = source(id);
        Map<String, String> open = source.settings().entrySet().stream()
                .filter(entry -> !entry.getValue().startsWith(SecretBox.MARK))
                .collect(Collectors.toMap(Map.Entry::getKey, Map.Entry::getValue));
        byte[] json = DefinitionCodec.write(source.withSettings(open)).getBytes(StandardCharsets.UTF_8);
        return ResponseEntity.ok()
                .contentType(MediaType.APPLICATION_JSON)
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(source.name() + ".json", StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(json);
    }

    @GetMapping("/import")
    String importForm(Model model) {
        model.addAttribute("text", "");
        return "plant/source-import";
    }

    @PostMapping("/import")
    String importNow(@RequestParam String text, Principal by, Model model, RedirectAttributes flash) {
        try {
            if (!(DefinitionCodec.read(text) instanceof SourceDefinition source)) {
                throw new IllegalArgumentException("This is a definition, but not of a source.");
            }
            LinkKind kind = engine.sources().kind(source.link());
            Map<String, String> problems = SettingField.problems(
                    kind.settings().stream().filter(field -> !field.isSecret()).toList(), source.settings());
            if (!problems.isEmpty()) {
                throw new IllegalArgumentException(
                        "Its settings cannot be used: " + String.join(" ", problems.values()));
            }
            for (TagInfo tag : source.tags()) {
                String problem = kind.describes() && !kind.browses() ? kind.tagProblem(tag) : "";
                if (!problem.isEmpty()) {
                    throw new IllegalArgumentException("Its tag " + tag.name() + " cannot be used: " + problem);
                }
            }
            SourceDefinition fresh = new SourceDefinition(
                    Definitions.newId(),
                    definitions.freeName(SourceDefinition.class, "", source.name()),
                    source.description(),
                    source.link(),
                    source.settings(),
                    source.rate(),
                    source.tags(),
                    false);
            drafts.edit(fresh, 0, by.getName());
            flash.addFlashAttribute(
                    "said",
                    fresh.name() + " is imported as a draft with "
                            + fresh.tags().size() + " tags. Passwords do not travel: fill them in if it has any.");
            return "redirect:/plant/sources/" + fresh.id();
        } catch (IllegalArgumentException problem) {
            model.addAttribute("text", text);
            model.addAttribute("fieldProblem", problem.getMessage());
            return "plant/source-import";
        }
    }

    @PostMapping("/{id}/undo")
    String undo(@PathVariable String id, Principal by) {
        drafts.undo(id, by.getName());
        return definitions.find(id).isPresent() ? "redirect:/plant/sources/" + id : "redirect:/plant";
    }

    @PostMapping("/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        List<Definition> users = definitions.users(id);
        if (!users.isEmpty()) {
            flash.addFlashAttribute(
                    "problem",
                    "This source is used by "
                            + users.stream().map(Definition::name).collect(Collectors.joining(", "))
                            + ". Remove its tags there first.");
            return "redirect:/plant/sources/" + id;
        }
        String name = source(id).name();
        drafts.remove(id, by.getName());
        flash.addFlashAttribute(
                "said", name + " is removed" + (definitions.draft(id).isPresent() ? " with the next release." : "."));
        return "redirect:/plant";
    }
}
