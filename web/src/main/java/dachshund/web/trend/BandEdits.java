package dachshund.web.trend;

import dachshund.core.tag.TagRef;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.TrendDefinition;
import dachshund.office.definition.Definitions;
import dachshund.office.tag.TagFinder;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;

/** The bands of a trend: which there are, and how one is added, moved and taken out. */
@Component
class BandEdits {

    private final Definitions definitions;
    private final TagFinder finder;

    BandEdits(Definitions definitions, TagFinder finder) {
        this.definitions = definitions;
        this.finder = finder;
    }

    void show(TrendDefinition trend, Model model) {
        model.addAttribute(
                "fromOfBands",
                trend.bands().stream().collect(Collectors.toMap(Band::id, band -> words(band.from()), (a, b) -> a)));
        model.addAttribute("hasShifts", hasShifts(trend));
    }

    private String words(BandSource from) {
        if (from instanceof BandSource.OfTag of) {
            return words(of.tag());
        }
        if (from instanceof BandSource.OfQuery query) {
            return name(query.query()) + " / " + query.called() + ", from " + query.begins() + " to " + query.ends();
        }
        return "the plant's shift calendar";
    }

    String words(TagRef tag) {
        return finder.find(tag)
                .map(found -> found.source().name() + " / " + found.info().fullName())
                .orElse("a tag that is not there any more");
    }

    private String name(String id) {
        return definitions.find(id).map(each -> each.name()).orElse("something that is not there any more");
    }

    /** The first number that is no id yet. */
    static String free(Predicate<String> isTaken) {
        return IntStream.iterate(1, each -> each + 1)
                .mapToObj(Integer::toString)
                .filter(isTaken.negate())
                .findFirst()
                .orElseThrow();
    }

    private static TrendDefinition withBand(TrendDefinition trend, String name, BandSource from) {
        if (trend.bands().size() >= Band.MOST) {
            throw new IllegalArgumentException("A trend has " + Band.MOST + " bands at most. Take one out first.");
        }
        List<Band> bands = new ArrayList<>(trend.bands());
        bands.add(new Band(free(id -> trend.band(id).isPresent()), name, from));
        return trend.under(bands);
    }

    private static boolean hasShifts(TrendDefinition trend) {
        return trend.bands().stream().anyMatch(band -> band.from() instanceof BandSource.OfShifts);
    }

    static TrendDefinition withShifts(TrendDefinition trend) {
        if (hasShifts(trend)) {
            throw new IllegalArgumentException("The shifts are there already.");
        }
        return withBand(trend, "Shifts", new BandSource.OfShifts());
    }

    TrendDefinition withTagBand(TrendDefinition trend, String key, String name) {
        TagFinder.FoundTag tag = finder.find(TagFinder.ref(key))
                .orElseThrow(() -> new IllegalArgumentException("This tag is not there any more."));
        return withBand(trend, name.isBlank() ? tag.info().name() : name.strip(), new BandSource.OfTag(tag.ref()));
    }

    TrendDefinition withQueryBand(
            TrendDefinition trend, String query, String begins, String ends, String names, String called) {
        if (begins.isEmpty() || ends.isEmpty() || names.isEmpty()) {
            throw new IllegalArgumentException("Choose the columns of beginning, end and name.");
        }
        return withBand(
                trend,
                called.isBlank() ? name(query) : called.strip(),
                new BandSource.OfQuery(query, begins, ends, names));
    }

    static TrendDefinition withoutBand(TrendDefinition trend, String band) {
        return trend.under(
                trend.bands().stream().filter(each -> !each.id().equals(band)).toList());
    }

    /** The band comes first, and lies behind the curves. */
    static TrendDefinition behind(TrendDefinition trend, String band) {
        return trend.under(trend.bands().stream()
                .sorted(Comparator.comparing((Band each) -> !each.id().equals(band)))
                .toList());
    }
}
