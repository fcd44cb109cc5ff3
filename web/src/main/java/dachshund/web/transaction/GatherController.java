package dachshund.web.transaction;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Over;
import dachshund.core.transaction.TransactionCheck;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import dachshund.web.people.Needs;
import dachshund.web.people.Right;
import dachshund.web.query.Calculations;
import java.security.Principal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiConsumer;
import java.util.stream.Stream;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;

/** What a transaction gathers: values of tags, and what is computed of their history. */
@Needs(Right.DESIGN)
@Controller
class GatherController {

    private static final Duration A_DAY = Duration.ofDays(1);

    private final TransactionPage page;
    private final Definitions definitions;

    GatherController(TransactionPage page, Definitions definitions) {
        this.page = page;
        this.definitions = definitions;
    }

    /** A tag whose value steps can use. */
    @PostMapping("/records/{id}/gathers")
    String gather(
            @PathVariable String id, @RequestParam String text, @RequestParam int seen, Principal by, Model model) {
        TagRef tag = TagFinder.ref(text);
        TagInfo info = definitions.tag(tag).orElseThrow();
        return gathers(
                id,
                seen,
                by,
                model,
                (all, design) -> all.add(new Gathered(free(info.name(), design), tag, Gathered.WhenBad.FAIL)));
    }

    /** The piece of equipment that it is about; none where that is empty. */
    @PostMapping("/records/{id}/about-equipment")
    String equipment(
            @PathVariable String id,
            @RequestParam(defaultValue = "") String equipment,
            @RequestParam int seen,
            Principal by,
            Model model) {
        if (!equipment.isEmpty()
                && definitions.find(EquipmentDefinition.class, equipment).isEmpty()) {
            return page.refuse(id, model, "equipment", "That piece of equipment is not there any more.", Map.of());
        }
        return page.change(id, seen, by.getName(), model, design -> design.withEquipment(equipment));
    }

    /** A property of its equipment, whose value steps can use. */
    @PostMapping("/records/{id}/gathers/property")
    String property(
            @PathVariable String id, @RequestParam String property, @RequestParam int seen, Principal by, Model model) {
        return property.isBlank()
                ? page.design(id, model)
                : gathers(id, seen, by, model, (all, design) -> all.add(Gathered.of(free(property, design), property)));
    }

    /** A value that no tag gives, but whoever asks for a run: by hand, or a program. */
    @PostMapping("/records/{id}/gathers/given")
    String given(@PathVariable String id, @RequestParam int seen, Principal by, Model model) {
        return gathers(id, seen, by, model, (all, design) -> all.add(Gathered.given(free("given", design))));
    }

    private static String free(String wish, TransactionDefinition design) {
        String base =
                wish.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9]+", "_").replaceAll("^[_0-9]+|_+$", "");
        base = base.isEmpty() ? "x" : base.substring(0, Math.min(30, base.length()));
        String name = base;
        List<String> taken = design.namesBefore(design.steps().size());
        for (int n = 2; taken.contains(name) || design.step(name).isPresent(); n++) {
            name = base + "_" + n;
        }
        return name;
    }

    /** Its name, what of the tag it is, and what happens where that cannot be trusted. */
    @PostMapping("/records/{id}/gathers/{index}")
    String gathered(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam Map<String, String> form,
            @RequestParam int seen,
            Principal by,
            Model model) {
        try {
            Gathered was = page.transaction(id).gathers().get(index);
            String name = form.getOrDefault("name", "").strip();
            if (!TransactionCheck.isName(name)) {
                throw new IllegalArgumentException(
                        "A name begins with a letter, and has letters, digits and _, up to 40.");
            }
            Optional<Over> over = was.isGiven() ? Optional.empty() : over(form, was);
            boolean now = over.isEmpty() && !was.isGiven();
            Gathered.WhenBad bad = Stream.of(Gathered.WhenBad.values())
                    .filter(each -> each.name().equals(form.get("bad")))
                    .filter(each -> now || each != Gathered.WhenBad.LAST_GOOD)
                    .findFirst()
                    .orElse(Gathered.WhenBad.FAIL);
            return gathers(
                    id,
                    seen,
                    by,
                    model,
                    (all, design) -> all.set(index, was.called(name, bad).withOver(over)));
        } catch (IllegalArgumentException no) {
            return page.refuse(id, model, "gather" + index, no.getMessage(), form);
        }
    }

    private Optional<Over> over(Map<String, String> form, Gathered was) {
        String since = form.getOrDefault("since", "");
        if (since.isEmpty()) {
            return Optional.empty();
        }
        Over.Since begins = Stream.of(Over.Since.values())
                .filter(each -> each.name().equals(since))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException("There is no time that begins so."));
        String longest = form.getOrDefault("longest", "").strip();
        boolean numeric = definitions
                .tag(was.tag())
                .filter(info -> !info.kind().numeric())
                .isEmpty();
        String what = form.getOrDefault("what", "");
        return Optional.of(new Over(
                begins,
                longest.isEmpty() ? A_DAY : PeriodText.read(longest),
                was.over().flatMap(Over::marker),
                Calculations.read(
                        what.isEmpty() ? numeric ? "part13:TimeAverage2" : "part13:End" : what,
                        form.getOrDefault("with", "").strip())));
    }

    /** The tag that says when the time of one begins. */
    @PostMapping("/records/{id}/gathers/{index}/marker")
    String marker(
            @PathVariable String id,
            @PathVariable int index,
            @RequestParam String text,
            @RequestParam int seen,
            Principal by,
            Model model) {
        TagRef tag = TagFinder.ref(text);
        return gathers(id, seen, by, model, (all, design) -> {
            Gathered was = all.get(index);
            all.set(
                    index,
                    was.withOver(was.over()
                            .map(over -> new Over(over.since(), over.longest(), Optional.of(tag), over.what()))));
        });
    }

    @PostMapping("/records/{id}/gathers/{index}/remove")
    String notGathered(
            @PathVariable String id, @PathVariable int index, @RequestParam int seen, Principal by, Model model) {
        return gathers(id, seen, by, model, (all, design) -> all.remove(index));
    }

    private String gathers(
            String id, int seen, Principal by, Model model, BiConsumer<List<Gathered>, TransactionDefinition> edit) {
        return page.change(id, seen, by.getName(), model, design -> {
            List<Gathered> all = new ArrayList<>(design.gathers());
            edit.accept(all, design);
            return design.withGathers(all);
        });
    }
}
