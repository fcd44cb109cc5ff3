package dachshund.web.transaction;

import dachshund.core.definition.Definition;
import dachshund.core.destination.StoreProblem;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.Answer;
import dachshund.core.transaction.Isolation;
import dachshund.core.transaction.Policy;
import dachshund.core.transaction.Step;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.Engine;
import dachshund.engine.transaction.SentAlone;
import dachshund.engine.transaction.Snapshots;
import dachshund.engine.transaction.TriedOut;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.tag.TagFinder;
import dachshund.web.design.DesignLists;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.records.NewRecorder;
import java.security.Principal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.util.MultiValueMap;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** Transactions: their list, and what is done to one. */
@Needs(Right.DESIGN)
@Controller
class TransactionController {

    private static final String PAGE = "/records/transactions";

    /** What fields begin with in which somebody gives a value. */
    private static final String GIVEN = "given-";

    private final TransactionPage page;
    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final DesignLists lists;
    private final Audit audit;
    private final NewRecorder newRecorder;

    TransactionController(
            TransactionPage page,
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            DesignLists lists,
            Audit audit,
            NewRecorder newRecorder) {
        this.newRecorder = newRecorder;
        this.page = page;
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.lists = lists;
        this.audit = audit;
    }

    @GetMapping(PAGE)
    String list(DesignLists.Asked asked, Model model) {
        lists.show(asked.query("TRANSACTION"), model);
        return "transaction/transactions";
    }

    @PostMapping(PAGE)
    String fresh(Principal by) {
        String name = "Transaction";
        for (int n = 2;
                !definitions.nameProblem(TransactionDefinition.class, "", name).isEmpty();
                n++) {
            name = "Transaction " + n;
        }
        String database = newRecorder
                .usual()
                .filter(page.able()::contains)
                .map(Definition::id)
                .orElse("");
        TransactionDefinition design = TransactionDefinition.begun(Definitions.newId(), name, database);
        drafts.edit(design, 0, by.getName());
        return "redirect:" + PAGE + "/" + design.id();
    }

    @GetMapping(PAGE + "/{id}")
    String show(@PathVariable String id, Model model) {
        page.design(id, model);
        return "transaction/transaction";
    }

    @GetMapping("/records/{id}/firings")
    String ribbon(@PathVariable String id, Model model) {
        page.rehearsed(page.transaction(id), definitions.plant(), model);
        return "when/whens :: ribbon";
    }

    @GetMapping("/records/{id}/run-status")
    String status(@PathVariable String id, Model model) {
        page.status(id, model);
        return "transaction/transaction :: status";
    }

    @PostMapping("/records/{id}/about")
    String about(
            @PathVariable String id,
            @RequestParam String name,
            @RequestParam(defaultValue = "") String description,
            @RequestParam int seen,
            Principal by,
            Model model) {
        String problem = definitions.nameProblem(TransactionDefinition.class, id, name);
        return problem.isEmpty()
                ? page.change(id, seen, by.getName(), model, each -> each.withAbout(name.strip(), description.strip()))
                : page.refuse(id, model, "name", problem, name);
    }

    private String steps(String id, int seen, Principal by, Model model, Consumer<List<Step>> edit) {
        return page.change(id, seen, by.getName(), model, design -> {
            List<Step> all = new ArrayList<>(design.steps());
            edit.accept(all);
            return design.withSteps(all);
        });
    }

    @PostMapping("/records/{id}/steps")
    String step(@PathVariable String id, @RequestParam String kind, @RequestParam int seen, Principal by, Model model) {
        int last = page.transaction(id).steps().size();
        try {
            StepForms.Kind of = StepForms.Kind.named(kind);
            return page.change(id, seen, by.getName(), model, last, design -> {
                List<Step> all = new ArrayList<>(design.steps());
                all.add(StepForms.fresh(of, design));
                return design.withSteps(all);
            });
        } catch (IllegalArgumentException no) {
            return page.refuse(id, model, "steps", no.getMessage(), "");
        }
    }

    @PostMapping("/records/{id}/steps/{index}")
    String changed(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam MultiValueMap<String, String> form,
            @RequestParam int seen,
            Principal by,
            Model model) {
        try {
            Step after = StepForms.read(form, page.transaction(id).steps().get(index));
            return page.change(id, seen, by.getName(), model, index, design -> with(design, index, after));
        } catch (IllegalArgumentException no) {
            return page.refuse(id, model, "step" + index, no.getMessage(), form.toSingleValueMap());
        }
    }

    private static TransactionDefinition with(TransactionDefinition design, int index, Step step) {
        List<Step> all = new ArrayList<>(design.steps());
        all.set(index, step);
        return design.withSteps(all);
    }

    /** The tag that a step writes. */
    @PostMapping("/records/{id}/steps/{index}/tag")
    String tag(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        TagRef tag = TagFinder.ref(text);
        return page.change(
                id,
                seen,
                by.getName(),
                model,
                index,
                design -> design.steps().get(index) instanceof Step.WriteTag write
                        ? with(
                                design,
                                index,
                                new Step.WriteTag(write.name(), write.only(), tag, write.value(), write.tolerance()))
                        : design);
    }

    /** Columns of its table, filled by name where names agree. */
    @PostMapping("/records/{id}/steps/{index}/take")
    String take(@PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        try {
            Optional<List<Step.Cell>> cells = page.cells(page.transaction(id), index);
            if (cells.isEmpty()) {
                return page.refuse(
                        id, model, "step" + index, "There is no such table, or this account may not see it.", "");
            }
            return page.change(
                    id,
                    seen,
                    by.getName(),
                    model,
                    index,
                    design -> design.steps().get(index) instanceof Step.Put put
                            ? with(
                                    design,
                                    index,
                                    new Step.Put(
                                            put.name(),
                                            put.only(),
                                            put.deed(),
                                            put.table(),
                                            cells.get(),
                                            put.least(),
                                            put.most(),
                                            put.each(),
                                            put.in()))
                            : design);
        } catch (StoreProblem problem) {
            return page.refuse(id, model, "step" + index, problem.getMessage(), "");
        }
    }

    @PostMapping("/records/{id}/steps/{index}/move")
    String move(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam int to,
            @RequestParam int seen,
            Principal by,
            Model model) {
        return steps(id, seen, by, model, all -> {
            Step step = all.remove(index);
            all.add(Math.max(0, Math.min(all.size(), to)), step);
        });
    }

    @PostMapping("/records/{id}/steps/{index}/remove")
    String removeStep(
            @PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return steps(id, seen, by, model, all -> all.remove(index));
    }

    /** Where it is done, and what bounds it. */
    @PostMapping("/records/{id}/bounds")
    String bounds(
            @PathVariable String id,
            @RequestParam Map<String, String> form,
            @RequestParam int seen,
            Principal by,
            Model model) {
        try {
            Isolation isolation = Arrays.stream(Isolation.values())
                    .filter(each -> each.name().equals(form.get("isolation")))
                    .findFirst()
                    .orElse(Isolation.READ_COMMITTED);
            Policy policy = new Policy(
                    period(form, "limit"),
                    number(form, "retries"),
                    period(form, "pause"),
                    period(form, "settle"),
                    number(form, "parallel"),
                    number(form, "waiting"),
                    number(form, "stopAfter"),
                    form.containsKey("hold"),
                    form.containsKey("apart"),
                    number(form, "keepMarks"));
            List<String> keys = Arrays.stream(form.getOrDefault("keys", "").split("[,;\\s]+"))
                    .filter(each -> !each.isEmpty())
                    .distinct()
                    .toList();
            return page.change(id, seen, by.getName(), model, design -> design.withDatabase(
                            form.getOrDefault("database", ""), isolation, form.containsKey("mark"))
                    .withPolicy(policy, keys));
        } catch (IllegalArgumentException no) {
            return page.refuse(id, model, "bounds", no.getMessage(), form);
        }
    }

    private static Duration period(Map<String, String> form, String field) {
        String text = form.getOrDefault(field, "").strip();
        return text.isEmpty() || text.equals("0") ? Duration.ZERO : PeriodText.read(text);
    }

    private static int number(Map<String, String> form, String field) {
        String text = form.getOrDefault(field, "").strip();
        if (!text.matches("\\d{1,6}")) {
            throw new IllegalArgumentException("\"" + text + "\" is no whole number.");
        }
        return Integer.parseInt(text);
    }

    /** What the plant is told. */
    @PostMapping("/records/{id}/answer")
    String answer(
            @PathVariable String id,
            @RequestParam Map<String, String> form,
            @RequestParam int seen,
            Principal by,
            Model model) {
        try {
            long done = number(form, "done");
            long but = number(form, "but");
            long failed = number(form, "failed");
            String text = form.getOrDefault("doneText", "").strip();
            return page.change(
                    id,
                    seen,
                    by.getName(),
                    model,
                    design -> design.withAnswer(
                            new Answer(design.answer().code(), design.answer().text(), done, but, failed, text)));
        } catch (IllegalArgumentException no) {
            return page.refuse(id, model, "answer", no.getMessage(), form);
        }
    }

    /** The tag that gets code or text; none where nothing is given. */
    @PostMapping("/records/{id}/answer/{which}")
    String answerTag(
            @PathVariable String id,
            @PathVariable String which,
            @RequestParam(defaultValue = "") String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        Optional<TagRef> tag = text.isEmpty() ? Optional.empty() : Optional.of(TagFinder.ref(text));
        return page.change(id, seen, by.getName(), model, design -> {
            Answer was = design.answer();
            boolean code = which.equals("code");
            return design.withAnswer(new Answer(
                    code ? tag : was.code(),
                    code ? was.text() : tag,
                    was.done(),
                    was.but(),
                    was.failed(),
                    was.doneText()));
        });
    }

    /** Does it for real, and takes everything back. */
    @PostMapping("/records/{id}/try-all")
    String tried(@PathVariable String id, @RequestParam Map<String, String> form, Principal by, Model model) {
        TransactionDefinition design = page.transaction(id);
        TriedOut tried = page.notReached(design)
                .map(why -> new TriedOut(Map.of(), List.of(), why, ""))
                .orElseGet(() -> engine.transactions().tryNow(design, definitions.plant(), given(form)));
        audit.note(by.getName(), "tried a transaction", design.name());
        return page.design(id, model, tried, failed(design, tried));
    }

    /** One step alone, for real. */
    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/steps/{index}/send")
    String sent(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam Map<String, String> form,
            @RequestParam int seen,
            Principal by,
            Model model) {
        TransactionDefinition design = page.transaction(id);
        if (seen != page.seen(id) || index >= design.steps().size()) {
            return page.refuse(
                    id, model, "steps", "Somebody has changed the design meanwhile; nothing was sent.", form);
        }
        model.addAttribute("form", form);
        SentAlone sent = page.notReached(design).map(SentAlone::not).orElseGet(() -> engine.transactions()
                .sendAlone(design, index, definitions.plant(), given(form)));
        audit.note(
                by.getName(),
                "sent a step by hand",
                design.name() + ", step " + design.steps().get(index).name());
        return page.design(id, model, null, index, sent);
    }

    private static int failed(TransactionDefinition design, TriedOut tried) {
        for (int i = 0; i < design.steps().size(); i++) {
            if (tried.step(design.steps().get(i).name())
                    .filter(step -> step.fate() == dachshund.core.transaction.StepRun.Fate.FAILED)
                    .isPresent()) {
                return i;
            }
        }
        return -1;
    }

    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/run-now")
    String runNow(
            @PathVariable String id, @RequestParam Map<String, String> form, Principal by, RedirectAttributes flash) {
        String name = live(id).name();
        try {
            engine.transactions().byHand(id, by.getName(), given(form));
            audit.note(by.getName(), "ran a transaction", name);
            flash.addFlashAttribute("said", "It is begun, as it is released. The ledger shows how it ends.");
        } catch (IllegalArgumentException no) {
            flash.addFlashAttribute("problem", no.getMessage());
        }
        return "redirect:" + PAGE + "/" + id;
    }

    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/halt")
    String stop(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String why,
            Principal by,
            RedirectAttributes flash) {
        String name = live(id).name();
        engine.transactions().stop(id, by.getName(), why.strip());
        audit.note(by.getName(), "stopped a transaction", name);
        flash.addFlashAttribute("said", "Stopped. A run that is under way ends; requests get no answer from now on.");
        return "redirect:" + PAGE + "/" + id;
    }

    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/go-on")
    String start(@PathVariable String id, Principal by, RedirectAttributes flash) {
        String name = live(id).name();
        engine.transactions().start(id);
        audit.note(by.getName(), "started a transaction", name);
        flash.addFlashAttribute("said", "Started, as in release " + definitions.release() + ".");
        return "redirect:" + PAGE + "/" + id;
    }

    /** A person says that it is known how a request ended. */
    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/settled")
    String settled(@PathVariable String id, @RequestParam String request, Principal by, RedirectAttributes flash) {
        String name = live(id).name();
        engine.transactions().settled(id, request);
        audit.note(by.getName(), "settled an uncertain request", name + ", request " + request);
        flash.addFlashAttribute("said", "It is settled; the same request would be done if it came again.");
        return "redirect:" + PAGE + "/" + id;
    }

    /** What a run has left to do after its commit is tried at once, or is not done any more. */
    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/rest")
    String rest(
            @PathVariable String id,
            @RequestParam String request,
            @RequestParam String what,
            Principal by,
            RedirectAttributes flash) {
        String name = live(id).name();
        try {
            if (what.equals("be")) {
                engine.transactions().letBe(id, request, by.getName());
                audit.note(by.getName(), "let be what a run had left to do", name + ", " + request);
                flash.addFlashAttribute("said", "What " + request + " had left to do is not done any more.");
            } else {
                engine.transactions().doRest(id);
                flash.addFlashAttribute("said", "It is tried now; what is not done stays here.");
            }
        } catch (IllegalArgumentException no) {
            flash.addFlashAttribute("refused", no.getMessage());
        }
        return "redirect:" + PAGE + "/" + id;
    }

    /** What somebody has typed for values that no tag gives. */
    private static Map<String, Object> given(Map<String, String> form) {
        Map<String, Object> given = new LinkedHashMap<>();
        form.forEach((field, typed) -> {
            if (field.startsWith(GIVEN) && !typed.isBlank()) {
                given.put(field.substring(GIVEN.length()), Snapshots.value(typed));
            }
        });
        return given;
    }

    private TransactionDefinition live(String id) {
        return definitions
                .live(id)
                .filter(TransactionDefinition.class::isInstance)
                .map(TransactionDefinition.class::cast)
                .orElseThrow();
    }
}
