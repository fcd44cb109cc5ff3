package dachshund.web.records;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import dachshund.office.tag.TagFinder;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.when.WhenForms;
import java.security.Principal;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Edits of a recorder's Whens and its gate. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}")
class WhenController {

    private final RecorderPage page;
    private final WhenForms forms;

    WhenController(RecorderPage page, WhenForms forms) {
        this.page = page;
        this.forms = forms;
    }

    @PostMapping("/whens")
    String add(
            @PathVariable String id,
            @RequestParam WhenForms.Kind kind,
            @RequestParam int seen,
            Principal by,
            Model model) {
        try {
            When fresh = forms.fresh(kind, page.recorder(id));
            return page.change(id, seen, by.getName(), model, recorder -> {
                List<When> whens = new ArrayList<>(recorder.whens());
                whens.add(fresh);
                return recorder.withWhens(whens);
            });
        } catch (IllegalArgumentException problem) {
            return page.refuse(id, model, "whens", problem.getMessage(), "");
        }
    }

    @PostMapping("/whens/{index}")
    String save(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam Map<String, String> form,
            @RequestParam(required = false) List<String> day,
            @RequestParam(required = false) List<String> tag,
            @RequestParam WhenForms.Kind kind,
            @RequestParam int seen,
            Principal by,
            Model model) {
        RecorderDefinition recorder = page.recorder(id);
        When before = recorder.whens().get(index);
        try {
            When after = WhenForms.Kind.of(before) == kind
                    ? forms.read(form, day == null ? List.of() : day, tag == null ? List.of() : tag, before, recorder)
                    : forms.fresh(kind, recorder);
            return page.change(id, seen, by.getName(), model, each -> each.withWhens(with(each.whens(), index, after)));
        } catch (WhenForms.Refused refused) {
            return page.refuse(
                    id,
                    model,
                    "when" + index + refused.field(),
                    refused.getMessage(),
                    form.getOrDefault(refused.field(), ""));
        } catch (IllegalArgumentException problem) {
            return page.refuse(id, model, "whens", problem.getMessage(), "");
        }
    }

    private static List<When> with(List<When> whens, int index, When when) {
        List<When> changed = new ArrayList<>(whens);
        changed.set(index, when);
        return changed;
    }

    @PostMapping("/whens/{index}/remove")
    String remove(@PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return page.change(id, seen, by.getName(), model, recorder -> {
            List<When> whens = new ArrayList<>(recorder.whens());
            whens.remove(index);
            return recorder.withWhens(whens);
        });
    }

    /** A tag for the condition of a When to speak of. */
    @PostMapping("/whens/{index}/inputs")
    String input(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        UnaryOperator<Condition> more = condition -> forms.withInput(condition, TagFinder.ref(text));
        return page.change(id, seen, by.getName(), model, recorder -> {
            When before = recorder.whens().get(index);
            When when = before.dependsOn().map(more).map(before::withCondition).orElse(before);
            return recorder.withWhens(with(recorder.whens(), index, when));
        });
    }

    @PostMapping("/gate")
    String gate(
            @PathVariable String id,
            @RequestParam Map<String, String> form,
            @RequestParam int seen,
            Principal by,
            Model model) {
        RecorderDefinition recorder = page.recorder(id);
        Condition condition = forms.condition(form, recorder.gate().orElse(new Condition("", Map.of())), recorder);
        return page.change(id, seen, by.getName(), model, each -> each.withGate(Optional.of(condition)));
    }

    @PostMapping("/gate/inputs")
    String gateInput(
            @PathVariable String id, @RequestParam String text, @RequestParam int seen, Principal by, Model model) {
        return page.change(
                id,
                seen,
                by.getName(),
                model,
                recorder -> recorder.withGate(Optional.of(
                        forms.withInput(recorder.gate().orElse(new Condition("", Map.of())), TagFinder.ref(text)))));
    }

    @PostMapping("/gate/remove")
    String noGate(@PathVariable String id, @RequestParam int seen, Principal by, Model model) {
        return page.change(id, seen, by.getName(), model, recorder -> recorder.withGate(Optional.empty()));
    }
}
