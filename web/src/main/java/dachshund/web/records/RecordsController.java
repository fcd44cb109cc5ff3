package dachshund.web.records;

import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.web.design.DesignLists;
import dachshund.web.design.DesignLists.Asked;
import dachshund.web.page.ThingPages;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.List;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;

/** The Records workspace: the list of recorders, and what is done to one as a whole. */
@Needs(Right.DESIGN)
@Controller
class RecordsController {

    private final Definitions definitions;
    private final Drafts drafts;
    private final Engine engine;
    private final NewRecorder newRecorder;
    private final Audit audit;
    private final DesignLists lists;
    private final ThingPages pages;

    RecordsController(
            Definitions definitions,
            Drafts drafts,
            Engine engine,
            NewRecorder newRecorder,
            Audit audit,
            DesignLists lists,
            ThingPages pages) {
        this.pages = pages;
        this.lists = lists;
        this.audit = audit;
        this.definitions = definitions;
        this.drafts = drafts;
        this.engine = engine;
        this.newRecorder = newRecorder;
    }

    @GetMapping("/records")
    String list(Asked asked, Model model) {
        lists.show(asked.query("RECORDER"), model);
        model.addAttribute(
                "destinations", definitions.all(DestinationDefinition.class).size());
        return "records/records";
    }

    @PostMapping("/records")
    String fresh(Principal by, RedirectAttributes flash) {
        RecorderDefinition recorder = newRecorder.of(List.of());
        drafts.edit(recorder, 0, by.getName());
        flash.addFlashAttribute("said", newRecorder.whereSaid(recorder));
        return "redirect:/records/" + recorder.id();
    }

    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/stop")
    String stop(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String why,
            Principal by,
            RedirectAttributes flash) {
        RecorderDefinition recorder = live(id);
        engine.recorders().stop(id, by.getName(), why);
        audit.note(by.getName(), "stopped a recorder", recorder.name() + (why.isBlank() ? "" : ": " + why.strip()));
        flash.addFlashAttribute("said", "Stopped. Rows that are held are still sent.");
        return "redirect:/records/" + id;
    }

    @Needs(Right.RELEASE)
    @PostMapping("/records/{id}/start")
    String start(@PathVariable String id, Principal by, RedirectAttributes flash) {
        RecorderDefinition recorder = live(id);
        engine.recorders().start(id);
        audit.note(by.getName(), "started a recorder", recorder.name());
        flash.addFlashAttribute("said", "Started, as in release " + definitions.release() + ".");
        return "redirect:/records/" + id;
    }

    private RecorderDefinition live(String id) {
        return definitions
                .live(id)
                .filter(RecorderDefinition.class::isInstance)
                .map(RecorderDefinition.class::cast)
                .orElseThrow();
    }

    /** Of whatever the Records workspace designs: recorders and transactions. */
    @PostMapping("/records/{id}/undo")
    String undo(@PathVariable String id, Principal by, RedirectAttributes flash) {
        String list = list(id);
        drafts.undo(id, by.getName());
        flash.addFlashAttribute("said", "The last edit is taken back.");
        return backTo(id, list);
    }

    @PostMapping("/records/{id}/discard")
    String discard(@PathVariable String id, Principal by, RedirectAttributes flash) {
        String list = list(id);
        drafts.discard(id, by.getName());
        flash.addFlashAttribute("said", "The draft is discarded.");
        return backTo(id, list);
    }

    @PostMapping("/records/{id}/remove")
    String remove(@PathVariable String id, Principal by, RedirectAttributes flash) {
        String list = list(id);
        String name = definitions.find(id).orElseThrow().name();
        drafts.remove(id, by.getName());
        flash.addFlashAttribute(
                "said",
                definitions.draft(id).isPresent()
                        ? name + " goes with the next release. Until then it goes on."
                        : name + " is removed.");
        return "redirect:" + list;
    }

    /** Its page, or the list of its kind where it is gone. */
    private String backTo(String id, String list) {
        return "redirect:" + definitions.find(id).map(pages::of).orElse(list);
    }

    private String list(String id) {
        String page = definitions.find(id).map(pages::of).orElse("/records/");
        return page.substring(0, page.lastIndexOf('/'));
    }
}
