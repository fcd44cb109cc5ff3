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
import java.math.BigDecimal;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** The history of tags as a form of lines, and back. */
@Component
class TagLines {

    private static final int SHOWN = 40;
    private static final String PART13 = "part13:";

    private final Definitions definitions;
    private final TagFinder finder;

    TagLines(Definitions definitions, TagFinder finder) {
        this.definitions = definitions;
        this.finder = finder;
    }

    /** What can be computed of a period, as forms have it and in words; with a number beside it, where it needs one. */
    public record Offer(String key, String words, String with) {}

    /**
     * What is computed, as the form has it.
     *
     * @param value the number beside it
     * @param asks  what that number means; empty where there is none
     */
    public record Chosen(String key, String value, String asks) {}

    /** A tag that is meant. */
    public record Meant(String name, String source, String unit, String kind, String equipment) {}

    /** A tag that was added by itself. */
    public record Ticked(String key, String name, boolean there) {}

    private static final List<Offer> OFFERS = Stream.concat(
                    Stream.of(
                            new Offer("increase", "increase of a counter", "rolls over at (empty: is reset)"),
                            new Offer("percentile", "percentile", "percent"),
                            new Offer("above", "seconds above a limit", "limit")),
                    Arrays.stream(Aggregate.values()).map(each -> new Offer(PART13 + each.part13(), each.words(), "")))
            .toList();

    static String key(Calculation of) {
        if (of instanceof Calculation.OfPart13 part13) {
            return PART13 + part13.aggregate().part13();
        }
        return of instanceof Calculation.Increase
                ? "increase"
                : of instanceof Calculation.OfPercent ? "percentile" : "above";
    }

    /** The number beside it. */
    static String with(Calculation of) {
        double number = of instanceof Calculation.Increase increase
                ? increase.rollsOver()
                : of instanceof Calculation.OfPercent percent
                        ? percent.percent()
                        : of instanceof Calculation.TimeAbove above ? above.limit() : 0;
        return of instanceof Calculation.OfPart13 || of instanceof Calculation.Increase && number == 0
                ? ""
                : BigDecimal.valueOf(number).stripTrailingZeros().toPlainString();
    }

    private static Calculation calculation(String key, String with) {
        if (key.startsWith(PART13)) {
            return new Calculation.OfPart13(Aggregate.read(key.substring(PART13.length()))
                    .orElseThrow(() -> new IllegalArgumentException("There is no aggregate " + key + ".")));
        }
        return switch (key) {
            case "increase" -> new Calculation.Increase(with.isEmpty() ? 0 : number(with, 0, Double.MAX_VALUE));
            case "percentile" -> new Calculation.OfPercent(with.isEmpty() ? 95 : number(with, 0, 100));
            case "above" ->
                new Calculation.TimeAbove(with.isEmpty() ? 0 : number(with, -Double.MAX_VALUE, Double.MAX_VALUE));
            default -> throw new IllegalArgumentException("\"" + key + "\" is nothing that can be computed of values.");
        };
    }

    private static double number(String typed, double least, double most) {
        try {
            double number = new BigDecimal(typed).doubleValue();
            if (number >= least && number <= most) {
                return number;
            }
        } catch (NumberFormatException none) {
            // the sentence below
        }
        throw new IllegalArgumentException("\"" + typed + "\" is no number for it"
                + (most == 100 ? ": a percentile is from 0 to 100." : ". Write it with a point, such as 12.5."));
    }

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
            of.add(calculation(form.text("calc-" + line + "-key"), form.text("calc-" + line + "-with")));
        }
        if (!form.text("add-calc").isEmpty()) {
            of.add(calculation(form.text("add-calc"), ""));
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
        model.addAttribute("offers", OFFERS);
        model.addAttribute(
                "calcs",
                query.of().stream()
                        .map(each -> new Chosen(key(each), with(each), asked(key(each))))
                        .toList());
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

    /** What the number beside a calculation means. */
    private static String asked(String key) {
        return OFFERS.stream()
                .filter(each -> each.key().equals(key))
                .map(Offer::with)
                .findFirst()
                .orElse("");
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
