package dachshund.web.query;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.definition.EquipmentClassDefinition;
import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.Selection;
import dachshund.core.query.Per;
import dachshund.core.query.TagHistory;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.query.TagHistory.Mode;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** The history of tags as a form of lines, and back. */
@Component
class TagLines {

    private static final int SHOWN = 40;

    private final Definitions definitions;
    private final TagFinder finder;

    TagLines(Definitions definitions, TagFinder finder) {
        this.definitions = definitions;
        this.finder = finder;
    }

    /** A tag that is meant. */
    public record Meant(String name, String source, String unit, String kind, String equipment) {}

    /** A tag that was added by itself. */
    public record Ticked(String key, String name, boolean there) {}

    static TagHistory begun() {
        return new TagHistory(
                new Selection(List.of(), "", "", "", ""),
                Mode.AGGREGATED,
                Optional.of(Per.HOUR),
                Duration.ofMinutes(15),
                List.of(new Calculation.OfPart13(Aggregate.TIME_AVERAGE)),
                true);
    }

    TagHistory query(QueryForm form) {
        Set<TagRef> ticked = new LinkedHashSet<>();
        List<String> keys = form.texts("tag");
        for (int i = 0; i < keys.size(); i++) {
            if (!form.text("drop-tag").equals(Integer.toString(i))) {
                ticked.add(TagFinder.ref(keys.get(i)));
            }
        }
        if (!form.text("add-tag").isEmpty()) {
            ticked.add(TagFinder.ref(form.text("add-tag")));
        }
        List<Calculation> of = new ArrayList<>();
        for (int line : form.lines("calc", "key")) {
            of.add(Calculations.read(form.text("calc-" + line + "-key"), form.text("calc-" + line + "-with")));
        }
        if (!form.text("add-calc").isEmpty()) {
            of.add(Calculations.read(form.text("add-calc"), ""));
        }
        String per = form.text("t-per");
        return new TagHistory(
                new Selection(
                        List.copyOf(ticked),
                        form.text("t-source"),
                        form.text("t-folder"),
                        form.text("t-class"),
                        form.text("t-words")),
                form.text("mode").isEmpty() ? Mode.AGGREGATED : Mode.named(form.text("mode")),
                per.isEmpty() ? Optional.empty() : Optional.of(Per.of(per)),
                form.text("every").isEmpty() ? Duration.ofMinutes(15) : PeriodText.read(form.text("every")),
                of,
                !form.text("shape").equals("tall"));
    }

    void show(TagHistory query, Model model) {
        List<Assigned.Tag> meant = query.which().empty()
                ? List.of()
                : Assigned.fitting(
                        query.which(),
                        definitions.all(SourceDefinition.class),
                        definitions.all(EquipmentDefinition.class));
        model.addAttribute("t", query);
        model.addAttribute("every", PeriodText.write(query.every()));
        model.addAttribute("modes", Mode.values());
        model.addAttribute("pers", Per.values());
        model.addAttribute("offers", Calculations.OFFERS);
        model.addAttribute(
                "calcs", query.of().stream().map(Calculations::chosen).toList());
        model.addAttribute("sources", definitions.all(SourceDefinition.class));
        model.addAttribute("classes", definitions.all(EquipmentClassDefinition.class));
        model.addAttribute("meantCount", meant.size());
        model.addAttribute("meant", meant.stream().limit(SHOWN).map(this::meant).toList());
        model.addAttribute(
                "ticked",
                query.which().ticked().stream()
                        .map(ref -> finder.find(ref)
                                .map(tag -> new Ticked(tag.key(), tag.info().fullName(), true))
                                .orElse(new Ticked(
                                        ref.source() + " " + ref.address(), ref.address() + " (gone)", false)))
                        .toList());
    }

    private Meant meant(Assigned.Tag tag) {
        String equipment =
                finder.find(tag.ref()).map(TagFinder.FoundTag::equipment).orElse("");
        return new Meant(
                tag.info().fullName(),
                tag.source().name(),
                tag.info().unit(),
                tag.info().kind().words(),
                equipment);
    }
}
