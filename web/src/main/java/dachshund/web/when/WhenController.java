package dachshund.web.when;

import dachshund.core.definition.Driven;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Condition;
import dachshund.core.when.When;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import java.security.Principal;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.UnaryOperator;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** Edits of the Whens and the gate of whatever they drive. */
@Needs(Right.DESIGN)
@Controller
@RequestMapping("/records/{id}")
class WhenController {

    private static final int MOST_FOUND = 12;

    private final Definitions definitions;
    private final List<DrivenPage<?>> pages;
    private final WhenForms forms;
    private final TagFinder finder;

    WhenController(Definitions definitions, List<DrivenPage<?>> pages, WhenForms forms, TagFinder finder) {
        this.finder = finder;
        this.definitions = definitions;
        this.pages = pages;
        this.forms = forms;
    }

    private Driven driven(String id) {
        return definitions
                .find(id)
                .filter(Driven.class::isInstance)
                .map(Driven.class::cast)
                .orElseThrow();
    }

    private DrivenPage<?> page(String id) {
        Driven driven = driven(id);
        return pages.stream()
                .filter(each -> each.type().isInstance(driven))
                .findFirst()
                .orElseThrow();
    }

    private String change(String id, int seen, Principal by, Model model, UnaryOperator<Driven> change) {
        return page(id).changed(id, seen, by.getName(), model, change);
    }

    @PostMapping("/whens")
    String add(
            @PathVariable String id,
            @RequestParam WhenForms.Kind kind,
            @RequestParam int seen,
            Principal by,
            Model model) {
        try {
            When fresh = forms.fresh(kind, driven(id));
            return change(id, seen, by, model, driven -> {
                List<When> whens = new ArrayList<>(driven.whens());
                whens.add(fresh);
                return driven.withWhens(whens);
            });
        } catch (IllegalArgumentException problem) {
            return page(id).refuse(id, model, "whens", problem.getMessage(), "");
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
        Driven driven = driven(id);
        When before = driven.whens().get(index);
        try {
            When after = WhenForms.Kind.of(before) == kind
                    ? forms.read(form, day == null ? List.of() : day, tag == null ? List.of() : tag, before, driven)
                    : forms.fresh(kind, driven);
            return change(id, seen, by, model, each -> each.withWhens(with(each.whens(), index, after)));
        } catch (WhenForms.Refused refused) {
            return page(id).refuse(
                            id,
                            model,
                            "when" + index + refused.field(),
                            refused.getMessage(),
                            form.getOrDefault(refused.field(), ""));
        } catch (IllegalArgumentException problem) {
            return page(id).refuse(id, model, "whens", problem.getMessage(), "");
        }
    }

    private static List<When> with(List<When> whens, int index, When when) {
        List<When> changed = new ArrayList<>(whens);
        changed.set(index, when);
        return changed;
    }

    @PostMapping("/whens/{index}/remove")
    String remove(@PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return change(id, seen, by, model, driven -> {
            List<When> whens = new ArrayList<>(driven.whens());
            whens.remove(index);
            return driven.withWhens(whens);
        });
    }

    /** @param into what a found tag is added to: columns, or the place of a condition */
    @GetMapping("/find")
    String find(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String q,
            @RequestParam(defaultValue = "columns") String into,
            @RequestParam int seen,
            Model model) {
        List<TagFinder.FoundTag> found = q.isBlank() ? List.of() : TagFinder.closestFirst(finder.find("", q), q);
        model.addAttribute("driven", driven(id));
        model.addAttribute("seen", seen);
        model.addAttribute("q", q);
        model.addAttribute("into", into.replaceAll("[^A-Za-z0-9/.]", ""));
        model.addAttribute("found", found.subList(0, Math.min(MOST_FOUND, found.size())));
        model.addAttribute("more", found.size() - MOST_FOUND);
        return "when/whens :: found";
    }

    /** A tag of a request. */
    @PostMapping("/whens/{index}/role/{role}")
    String role(
            @PathVariable String id,
            @PathVariable int index,
            @PathVariable WhenForms.Role role,
            @RequestParam(defaultValue = "") String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        Optional<TagRef> tag = text.isEmpty() ? Optional.empty() : Optional.of(TagFinder.ref(text));
        return change(
                id,
                seen,
                by,
                model,
                driven -> driven.whens().get(index) instanceof When.OnRequest request
                        ? driven.withWhens(with(driven.whens(), index, WhenForms.with(request, role, tag)))
                        : driven);
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
        return change(id, seen, by, model, driven -> {
            When before = driven.whens().get(index);
            When when = before.dependsOn().map(more).map(before::withCondition).orElse(before);
            return driven.withWhens(with(driven.whens(), index, when));
        });
    }

    @PostMapping("/gate")
    String gate(
            @PathVariable String id,
            @RequestParam Map<String, String> form,
            @RequestParam int seen,
            Principal by,
            Model model) {
        Driven driven = driven(id);
        Condition condition = forms.condition(form, driven.gate().orElse(new Condition("", Map.of())), driven);
        return change(id, seen, by, model, each -> each.withGate(Optional.of(condition)));
    }

    @PostMapping("/gate/inputs")
    String gateInput(
            @PathVariable String id, @RequestParam String text, @RequestParam int seen, Principal by, Model model) {
        return change(
                id,
                seen,
                by,
                model,
                driven -> driven.withGate(Optional.of(
                        forms.withInput(driven.gate().orElse(new Condition("", Map.of())), TagFinder.ref(text)))));
    }

    @PostMapping("/gate/remove")
    String noGate(@PathVariable String id, @RequestParam int seen, Principal by, Model model) {
        return change(id, seen, by, model, driven -> driven.withGate(Optional.empty()));
    }
}
