package dachshund.web.design;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.Named;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.design.Design;
import dachshund.office.design.DesignList;
import dachshund.office.design.DesignList.Query;
import dachshund.office.design.Designs;
import dachshund.office.design.Ticked;
import dachshund.office.filing.Filed;
import dachshund.office.filing.Filings;
import dachshund.office.release.ConfigurationFile;
import dachshund.office.work.Work;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.page.ThingPages;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.work.LongWork;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.util.List;
import java.util.Map;
import java.util.function.ToIntFunction;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ModelAttribute;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The one list of everything that is designed, what is done with the ticked, and the page that every thing has. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/designs")
class DesignController {

    private final Definitions definitions;
    private final Engine engine;
    private final Designs designs;
    private final Ticked ticked;
    private final ThingPages pages;
    private final Audit audit;
    private final Filings filings;
    private final LongWork longWork;
    private final DesignLists lists;

    /** What follows where a thing is removed or stopped. */
    public record Follows(Definition thing, List<String> sentences, List<String> problems) {}

    DesignController(
            Definitions definitions,
            Engine engine,
            Designs designs,
            Ticked ticked,
            ThingPages pages,
            Audit audit,
            Filings filings,
            LongWork longWork,
            DesignLists lists) {
        this.definitions = definitions;
        this.ticked = ticked;
        this.engine = engine;
        this.designs = designs;
        this.pages = pages;
        this.audit = audit;
        this.filings = filings;
        this.longWork = longWork;
        this.lists = lists;
    }

    /** What is asked for, on every page of the list and with everything that is done to what was found. */
    @ModelAttribute("query")
    Query query(Asked asked) {
        return asked.query();
    }

    /** The list of everything; of a kind with a page of its own it is there. */
    @GetMapping
    String list(@ModelAttribute("query") Query query, Model model) {
        if (lists.hasOwn(query.kind())) {
            return "redirect:" + lists.address(query);
        }
        lists.show(query, model);
        return "design/designs";
    }

    /** The lines of any of the lists, as they stand now. */
    @GetMapping("/lines")
    String lines(@ModelAttribute("query") Query query, Model model) {
        lists.show(query, model);
        return "design/list :: lines";
    }

    @GetMapping("/{id}")
    String one(@PathVariable String id, Model model) {
        Definition thing = designs.find(id).orElseThrow();
        model.addAttribute("design", designs.of(thing));
        model.addAttribute("folders", filings.folders());
        model.addAttribute("users", ticked.users(thing, List.of()));
        model.addAttribute(
                "named",
                Stream.concat(
                                thing.kind().thingsOf(thing).stream(),
                                thing.kind().tagsOf(thing).stream().map(TagRef::source))
                        .distinct()
                        .flatMap(other -> definitions.find(other).stream())
                        .toList());
        model.addAttribute("documented", definitions.find(id).isPresent());
        model.addAttribute("own", !pages.of(thing).startsWith("/designs/"));
        return "design/design";
    }

    /** The ticked ones that are there still; all that were found where that was ticked. */
    private List<Definition> chosen(List<String> ids, boolean all, Query query) {
        if (all) {
            return DesignList.found(designs.all(), query).stream()
                    .map(Design::thing)
                    .toList();
        }
        return ids.stream().distinct().flatMap(id -> designs.find(id).stream()).toList();
    }

    private static List<String> ids(List<Definition> things) {
        return things.stream().map(Definition::id).toList();
    }

    private static String count(int n) {
        return n + (n == 1 ? " thing" : " things");
    }

    @PostMapping("/ticked/duplicate")
    String duplicate(
            @RequestParam(defaultValue = "") List<String> id,
            @RequestParam(defaultValue = "false") boolean all,
            @ModelAttribute("query") Query query,
            Principal by,
            RedirectAttributes flash) {
        List<Definition> chosen = chosen(id, all, query);
        return longWork.begin(
                "Duplicating " + count(chosen.size()),
                by,
                lists.address(query),
                flash,
                progress -> duplicated(chosen, by.getName(), lists.address(query), progress));
    }

    private Work.Outcome duplicated(List<Definition> chosen, String by, String page, Progress progress) {
        progress.step("Drafting the duplicates", 0, false);
        List<Definition> copies = ticked.duplicate(chosen, by);
        if (copies.size() == 1 && chosen.size() == 1) {
            return new Work.Outcome(
                    "This is a duplicate of " + chosen.get(0).name() + ", not released yet.",
                    true,
                    pages.of(copies.get(0)));
        }
        return new Work.Outcome(
                copies.isEmpty()
                        ? "Nothing was ticked that can be duplicated."
                        : count(copies.size())
                                + " duplicated, as drafts. A recorder's duplicate writes to a table of its own.",
                !copies.isEmpty(),
                page);
    }

    /** First what follows, then, with that said, the removal. */
    @PostMapping("/ticked/remove")
    String remove(
            @RequestParam(defaultValue = "") List<String> id,
            @RequestParam(defaultValue = "false") boolean all,
            @RequestParam(defaultValue = "false") boolean sure,
            @ModelAttribute("query") Query query,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        List<Definition> chosen = chosen(id, all, query);
        if (!sure && !chosen.isEmpty()) {
            Named named = new Named(
                    definitions.drafted().stream().collect(Collectors.toMap(Definition::id, each -> each)), Map.of());
            model.addAttribute("what", "remove");
            model.addAttribute("back", lists.address(query));
            model.addAttribute(
                    "follows",
                    chosen.stream()
                            .map(each -> new Follows(each, each.kind().removing(each, named), stillNamed(each, chosen)))
                            .toList());
            return "design/sure";
        }
        if (chosen.isEmpty()) {
            flash.addFlashAttribute("problem", "Nothing was ticked.");
            return "redirect:" + lists.address(query);
        }
        return longWork.begin("Removing " + count(chosen.size()), by, lists.address(query), flash, progress -> {
            progress.step("Drafting the removals", 0, false);
            ticked.remove(chosen, by.getName());
            return new Work.Outcome(
                    count(chosen.size()) + (chosen.size() == 1 ? " goes" : " go")
                            + " with the next release; what was never released is gone.",
                    true,
                    lists.address(query));
        });
    }

    /** What is ticked stands in a folder, or in none, from now on; nothing that works is touched. */
    @PostMapping("/ticked/move")
    String move(
            @RequestParam(defaultValue = "") List<String> id,
            @RequestParam(defaultValue = "false") boolean all,
            @RequestParam(defaultValue = "") String to,
            @ModelAttribute("query") Query query,
            Principal by,
            RedirectAttributes flash) {
        return filed(
                chosen(id, all, query),
                things -> filings.move(things, to),
                to.isBlank() ? "taken out of their folder" : "moved to " + to.strip(),
                query,
                by,
                flash);
    }

    @PostMapping("/ticked/label")
    String label(
            @RequestParam(defaultValue = "") List<String> id,
            @RequestParam(defaultValue = "false") boolean all,
            @RequestParam(defaultValue = "") String labels,
            @RequestParam(defaultValue = "false") boolean off,
            @ModelAttribute("query") Query query,
            Principal by,
            RedirectAttributes flash) {
        if (labels.isBlank()) {
            flash.addFlashAttribute("problem", "Write the labels first, separated by commas.");
            return "redirect:" + lists.address(query);
        }
        return filed(
                chosen(id, all, query),
                things -> off ? filings.unlabel(things, labels) : filings.label(things, labels),
                off ? "no longer labelled " + labels.strip() : "labelled " + labels.strip(),
                query,
                by,
                flash);
    }

    private String filed(
            List<Definition> chosen,
            ToIntFunction<List<String>> step,
            String what,
            Query query,
            Principal by,
            RedirectAttributes flash) {
        try {
            int changed = step.applyAsInt(ids(chosen));
            flash.addFlashAttribute(
                    chosen.isEmpty() ? "problem" : "said",
                    chosen.isEmpty()
                            ? "Nothing was ticked."
                            : changed == 0
                                    ? "They stand like that already."
                                    : count(changed) + (changed == 1 ? " is " : " are ") + what + ".");
            if (changed > 0) {
                audit.note(by.getName(), "filed", count(changed) + " " + what);
            }
        } catch (IllegalArgumentException problem) {
            flash.addFlashAttribute("problem", problem.getMessage());
        }
        return "redirect:" + lists.address(query);
    }

    /** Where one thing is filed, from its page. */
    @PostMapping("/{id}/filed")
    String file(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String folder,
            @RequestParam(defaultValue = "") String labels,
            Principal by,
            RedirectAttributes flash) {
        Definition thing = designs.find(id).orElseThrow();
        try {
            Filed filed = Filed.read(folder, labels);
            filings.file(id, filed);
            audit.note(
                    by.getName(),
                    "filed",
                    thing.kind().words() + " " + thing.name() + ": " + filed.folder() + "; "
                            + String.join(", ", filed.labels()));
            flash.addFlashAttribute("said", "It is filed like that, at once; this needs no release.");
        } catch (IllegalArgumentException problem) {
            flash.addFlashAttribute("problem", problem.getMessage());
        }
        return "redirect:/designs/" + id;
    }

    private List<String> stillNamed(Definition thing, List<Definition> leaving) {
        if (thing.kind().mayGoWhileNamed()) {
            return List.of();
        }
        return ticked.users(thing, leaving).stream()
                .map(user -> "It is still used by " + user.name() + ".")
                .toList();
    }

    @Needs(Right.RELEASE)
    @PostMapping("/ticked/stop")
    String stop(
            @RequestParam(defaultValue = "") List<String> id,
            @RequestParam(defaultValue = "false") boolean all,
            @RequestParam(defaultValue = "false") boolean sure,
            @ModelAttribute("query") Query query,
            Principal by,
            Model model,
            RedirectAttributes flash) {
        List<Definition> running = live(chosen(id, all, query));
        if (!sure && !running.isEmpty()) {
            model.addAttribute("what", "stop");
            model.addAttribute("back", lists.address(query));
            model.addAttribute(
                    "follows",
                    running.stream()
                            .map(each -> new Follows(
                                    each,
                                    List.of("Makes no rows until it is started. Rows that are held are still sent."),
                                    List.of()))
                            .toList());
            return "design/sure";
        }
        running.forEach(each -> engine.recorders().stop(each.id(), by.getName(), ""));
        running.forEach(each -> audit.note(by.getName(), "stopped a recorder", each.name()));
        flash.addFlashAttribute(
                running.isEmpty() ? "problem" : "said",
                running.isEmpty() ? "No recorder that is released was ticked." : recorders(running) + " stopped.");
        return "redirect:" + lists.address(query);
    }

    @Needs(Right.RELEASE)
    @PostMapping("/ticked/start")
    String start(
            @RequestParam(defaultValue = "") List<String> id,
            @RequestParam(defaultValue = "false") boolean all,
            @ModelAttribute("query") Query query,
            Principal by,
            RedirectAttributes flash) {
        List<Definition> chosen = live(chosen(id, all, query));
        chosen.forEach(each -> engine.recorders().start(each.id()));
        chosen.forEach(each -> audit.note(by.getName(), "started a recorder", each.name()));
        flash.addFlashAttribute(
                chosen.isEmpty() ? "problem" : "said",
                chosen.isEmpty() ? "No recorder that is released was ticked." : recorders(chosen) + " started.");
        return "redirect:" + lists.address(query);
    }

    private List<Definition> live(List<Definition> chosen) {
        return chosen.stream()
                .filter(RecorderDefinition.class::isInstance)
                .filter(each -> definitions.live(each.id()).isPresent())
                .toList();
    }

    private static String recorders(List<Definition> all) {
        return all.size() == 1 ? all.get(0).name() + " is" : all.size() + " recorders are";
    }

    /** The ticked ones as a configuration file, without secrets. */
    @PostMapping("/ticked/export")
    ResponseEntity<byte[]> export(
            @RequestParam(defaultValue = "") List<String> id,
            @RequestParam(defaultValue = "false") boolean all,
            @ModelAttribute("query") Query query) {
        byte[] file = ConfigurationFile.write(ticked.documentsOf(chosen(id, all, query)), filings::of)
                .getBytes(StandardCharsets.UTF_8);
        return ResponseEntity.ok()
                .contentType(MediaType.APPLICATION_JSON)
                .header("Content-Disposition", "attachment; filename=\"dachshund designs.json\"")
                .body(file);
    }

    /** The document of a thing as it is drafted, for a reader; no secrets, and not to be read in again. */
    @GetMapping("/{id}/document")
    ResponseEntity<byte[]> document(@PathVariable String id) {
        Definition thing = definitions.find(id).orElseThrow();
        return ResponseEntity.ok()
                .contentType(MediaType.APPLICATION_JSON)
                .body(DefinitionCodec.write(thing.withSettings(Map.of())).getBytes(StandardCharsets.UTF_8));
    }
}
