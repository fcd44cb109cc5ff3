package dachshund.core.equipment;

import dachshund.core.formula.Formula;
import dachshund.core.formula.FormulaProblem;
import dachshund.core.formula.InputHistory;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagText;
import dachshund.core.tag.TagValue;
import dachshund.core.unit.Units;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/** What the properties of a piece of equipment are worth, and what is wrong with how they are mapped. */
public final class EquipmentValues {

    private static final Set<String> X = Set.of("x");

    private EquipmentValues() {}

    /**
     * The value of a property now.
     *
     * @param tags what is known of a tag
     * @param now  what a tag is worth
     */
    public static TagValue value(
            PropertyDesign property,
            PropertySource from,
            Function<TagRef, Optional<TagInfo>> tags,
            Function<TagRef, TagValue> now,
            Instant at) {
        try {
            if (from instanceof PropertySource.Constant constant) {
                return TagValue.good(TagText.read(property.kind(), constant.text()), at);
            }
            PropertySource.FromTag tag = (PropertySource.FromTag) from;
            TagValue value = now.apply(tag.tag());
            String unit = tag.unit().isEmpty()
                    ? tags.apply(tag.tag()).map(TagInfo::unit).orElse("")
                    : tag.unit();
            if (!tag.formula().isEmpty()) {
                InputHistory x = new InputHistory(Duration.ZERO);
                x.take(value, at);
                value = Formula.read(tag.formula(), X).evaluate(Map.of("x", x), property.kind(), at);
                unit = tag.unit();
            }
            return converted(value, unit, property.unit());
        } catch (FormulaProblem | IllegalArgumentException problem) {
            return new TagValue(Optional.empty(), Quality.bad(0x80890000L, problem.getMessage()), at, at);
        }
    }

    /** In the unit of the property, where both units are known and differ; bad where one is never the other. */
    private static TagValue converted(TagValue value, String from, String to) {
        if (Units.clash(from, to)) {
            throw new IllegalArgumentException("the tag is in " + from + ", the property in " + to);
        }
        boolean other = !from.isEmpty()
                && !to.isEmpty()
                && !from.equals(to)
                && Units.problem(from, to).isEmpty();
        if (!other || !(value.value().orElse(null) instanceof Number number)) {
            return value;
        }
        return new TagValue(
                Optional.of(Units.convert(number.doubleValue(), from, to)),
                value.quality(),
                value.sourceTime(),
                value.receiveTime());
    }

    /** Required properties that have no value. */
    public static List<String> gaps(List<PropertyDesign> properties, Map<String, PropertySource> mapped) {
        return properties.stream()
                .filter(property -> property.required() && !mapped.containsKey(property.name()))
                .map(PropertyDesign::name)
                .toList();
    }

    /** Sentences on what is wrong with a mapping; empty where nothing is. */
    public static List<String> problems(
            PropertyDesign property, PropertySource from, Function<TagRef, Optional<TagInfo>> tags) {
        List<String> problems = new ArrayList<>();
        if (from instanceof PropertySource.Constant constant) {
            try {
                TagText.read(property.kind(), constant.text());
            } catch (IllegalArgumentException problem) {
                problems.add(property.name() + ": " + problem.getMessage());
            }
        } else if (from instanceof PropertySource.FromTag tag) {
            Optional<TagInfo> info = tags.apply(tag.tag());
            if (info.isEmpty()) {
                problems.add(property.name() + ": the tag is not taken from its source any more.");
            }
            if (!tag.formula().isEmpty()) {
                try {
                    Formula.read(tag.formula(), X);
                } catch (FormulaProblem problem) {
                    problems.add(property.name() + ": " + problem.getMessage());
                }
            }
            String unit = tag.unit().isEmpty() ? info.map(TagInfo::unit).orElse("") : tag.unit();
            boolean plain = tag.formula().isEmpty()
                    && !unit.isEmpty()
                    && !property.unit().isEmpty()
                    && !unit.equals(property.unit());
            if (plain && !Units.problem(unit, property.unit()).isEmpty()) {
                problems.add(property.name() + ": the tag is in " + unit + ", the property in " + property.unit() + "; "
                        + Units.problem(unit, property.unit()));
            }
            boolean fits = info.isEmpty()
                    || !tag.formula().isEmpty()
                    || property.kind() == info.get().kind()
                    || property.kind() == DataKind.TEXT
                    || property.kind() == DataKind.NUMBER && info.get().kind().whole()
                    || property.kind() == DataKind.INTEGER && info.get().kind().whole();
            if (!fits) {
                problems.add(
                        property.name() + ": the tag is a " + info.get().kind().words() + ", the property a "
                                + property.kind().words() + ".");
            }
        }
        return problems;
    }
}
