package dachshund.web.records;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.office.definition.Definitions;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.rehearsal.Rehearsing;
import java.security.Principal;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** The recorder page: the parts that refresh by themselves, its name and its equipment. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}")
class RecorderController {

    private static final int MOST_KEYS = 6;

    private final RecorderPage page;
    private final Definitions definitions;
    private final Rehearsing rehearsing;
    private final NewRecorder newRecorder;

    RecorderController(RecorderPage page, Definitions definitions, Rehearsing rehearsing, NewRecorder newRecorder) {
        this.page = page;
        this.definitions = definitions;
        this.rehearsing = rehearsing;
        this.newRecorder = newRecorder;
    }

    @GetMapping
    String show(@PathVariable String id, Model model) {
        page.design(id, model);
        return "records/recorder";
    }

    @GetMapping("/design")
    String designOnly(@PathVariable String id, Model model) {
        return page.design(id, model);
    }

    @GetMapping("/now")
    String now(@PathVariable String id, Model model) {
        page.now(page.recorder(id), model);
        return "records/recorder :: now";
    }

    @GetMapping("/ribbon")
    String ribbon(@PathVariable String id, Model model) {
        rehearsed(id, model);
        return "when/whens :: ribbon";
    }

    /** The rows that the draft would have written, from the last minutes of values. */
    @GetMapping("/rehearsed")
    String rows(@PathVariable String id, Model model) {
        rehearsed(id, model);
        return "records/recorder :: rehearsed";
    }

    private void rehearsed(String id, Model model) {
        RecorderDefinition recorder = page.recorder(id);
        model.addAttribute("rehearsed", rehearsing.view(recorder, page.plant()));
        model.addAttribute("recorder", recorder);
        model.addAttribute("driven", recorder);
        model.addAttribute("draft", definitions.draft(id).orElse(null));
    }

    @GetMapping("/status")
    String status(@PathVariable String id, Model model) {
        page.status(id, model);
        return "records/recorder :: status";
    }

    @PostMapping("/name")
    String name(@PathVariable String id, @RequestParam String name, @RequestParam int seen, Principal by, Model model) {
        String problem = definitions.nameProblem(RecorderDefinition.class, id, name);
        return problem.isEmpty()
                ? page.change(id, seen, by.getName(), model, recorder -> newRecorder.renamed(recorder, name.strip()))
                : page.refuse(id, model, "name", problem, name);
    }

    @PostMapping("/equipment")
    String equipment(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String equipment,
            @RequestParam int seen,
            Principal by,
            Model model) {
        if (!equipment.isEmpty()) {
            NewRecorder.there(definitions.find(EquipmentDefinition.class, equipment));
        }
        return page.change(id, seen, by.getName(), model, recorder -> recorder.withEquipment(equipment));
    }

    /** Columns by whose values the ledger finds rows. */
    @PostMapping("/ledger-keys")
    String ledgerKeys(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String keys,
            @RequestParam int seen,
            Principal by,
            Model model) {
        Layout layout = page.recorder(id).layout();
        List<String> wanted = Arrays.stream(keys.split("[,;\\s]+"))
                .filter(each -> !each.isEmpty())
                .map(each -> layout.column(each).map(Column::name).orElse(each))
                .distinct()
                .toList();
        for (String each : wanted) {
            Optional<Column> column = layout.column(each);
            if (column.isEmpty() || column.get().isAutoNumber() || column.get().isRowId()) {
                return page.refuse(
                        id,
                        model,
                        "ledger-keys",
                        column.isEmpty()
                                ? "There is no column " + each + "."
                                : "Each row has another " + each
                                        + ": the ledger finds many rows by a value, such as a lot.",
                        keys);
            }
        }
        if (wanted.size() > MOST_KEYS) {
            return page.refuse(id, model, "ledger-keys", "Rows are found by " + MOST_KEYS + " columns at most.", keys);
        }
        return page.change(id, seen, by.getName(), model, recorder -> recorder.withKeys(wanted));
    }
}
