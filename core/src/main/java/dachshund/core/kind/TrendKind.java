package dachshund.core.kind;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.Named;
import dachshund.core.definition.Sentences;
import dachshund.core.tag.TagRef;
import dachshund.core.trend.Band;
import dachshund.core.trend.BandSource;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.TrendDefinition;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Trends, as the general parts know them. */
public final class TrendKind extends DefinitionKind<TrendDefinition> {

    public TrendKind() {
        super(90, "TREND", "Trend", "trend", TrendDefinition.class);
    }

    @Override
    protected Set<String> things(TrendDefinition trend) {
        Set<String> things = new HashSet<>();
        for (Curve curve : trend.curves()) {
            if (curve.from() instanceof CurveSource.OfTable table) {
                things.add(table.database());
            } else if (curve.from() instanceof CurveSource.OfQuery query) {
                things.add(query.query());
            }
        }
        for (Band band : trend.bands()) {
            if (band.from() instanceof BandSource.OfQuery query) {
                things.add(query.query());
            }
        }
        return things;
    }

    @Override
    protected Set<TagRef> tags(TrendDefinition trend) {
        Set<TagRef> tags = new HashSet<>();
        for (Curve curve : trend.curves()) {
            if (curve.from() instanceof CurveSource.OfTag of) {
                tags.add(of.tag());
            }
        }
        for (Band band : trend.bands()) {
            if (band.from() instanceof BandSource.OfTag of) {
                tags.add(of.tag());
            }
        }
        return tags;
    }

    @Override
    protected Map<Class<?>, Map<String, Class<?>>> choices() {
        return Map.of(CurveSource.class, CurveSource.DOCUMENTS, BandSource.class, BandSource.DOCUMENTS);
    }

    /**
     * Before curves had looks of their own, all were as usual; before there were several plots, all were in one; before bands were
     * chosen, shifts were drawn.
     */
    @Override
    protected void upToDate(ObjectNode document, int schemaVersion) {
        document.path("curves").forEach(curve -> {
            if (curve instanceof ObjectNode each) {
                if (!each.has("look")) {
                    each.putObject("look").put("colour", 0).put("wide", false).put("decimals", -1);
                }
                if (!each.has("plot")) {
                    each.put("plot", 1);
                }
            }
        });
        if (!document.has("bands")) {
            ObjectNode shifts = document.putArray("bands").addObject();
            shifts.put("id", "1").put("name", "Shifts").putObject("from").put("is", "shifts");
        }
    }

    @Override
    protected List<String> introduced(TrendDefinition trend, Named named) {
        return List.of("Everybody who signs in may look at it.");
    }

    @Override
    protected List<String> removed(TrendDefinition was, Named named) {
        return List.of("Nobody can look at it any more.");
    }

    @Override
    protected void changed(TrendDefinition was, TrendDefinition is, Named named, Sentences sentences) {
        sentences.compare("Window", was.window(), is.window());
        for (Band band : is.bands()) {
            Optional<Band> before = was.band(band.id());
            if (before.isEmpty()) {
                sentences.add("New band " + band.name() + ".");
            } else {
                String what = "Band " + before.get().name() + ": ";
                sentences.compare(what + "name", before.get().name(), band.name());
                sentences.compare(
                        what + "from",
                        before.get().from().toString(),
                        band.from().toString());
            }
        }
        was.bands().stream()
                .filter(band -> is.band(band.id()).isEmpty())
                .forEach(band -> sentences.add("Without band " + band.name() + "."));
        if (!was.bands().equals(is.bands()) && Set.copyOf(was.bands()).equals(Set.copyOf(is.bands()))) {
            sentences.add("Bands in another order.");
        }
        for (Curve curve : is.curves()) {
            Optional<Curve> before = was.curve(curve.id());
            if (before.isEmpty()) {
                sentences.add("New curve " + curve.name() + ".");
            } else {
                String what = "Curve " + before.get().name() + ": ";
                sentences.compare(what + "name", before.get().name(), curve.name());
                sentences.compare(what + "unit", before.get().unit(), curve.unit());
                sentences.compare(what + "plot", Integer.toString(before.get().plot()), Integer.toString(curve.plot()));
                sentences.compare(what + "scale", before.get().scale(), curve.scale());
                sentences.compare(what + "drawn", drawn(before.get()), drawn(curve));
                sentences.compare(what + "limits", limits(before.get()), limits(curve));
                sentences.compare(
                        what + "earlier by",
                        before.get().back().toString(),
                        curve.back().toString());
                sentences.compare(what + "from", words(before.get().from()), words(curve.from()));
            }
        }
        was.curves().stream()
                .filter(curve -> is.curve(curve.id()).isEmpty())
                .forEach(curve -> sentences.add("Without curve " + curve.name() + "."));
        List<String> order = was.curves().stream()
                .map(Curve::id)
                .filter(id -> is.curve(id).isPresent())
                .toList();
        if (!order.equals(is.curves().stream()
                .map(Curve::id)
                .filter(id -> was.curve(id).isPresent())
                .toList())) {
            sentences.add("Curves in another order.");
        }
    }

    /** Pasted cells may be thousands of lines. */
    private static String words(CurveSource from) {
        return from instanceof CurveSource.Pasted pasted
                ? pasted.cells().lines().count() + " pasted lines (" + Integer.toHexString(pasted.hashCode()) + ")"
                : from.toString();
    }

    private static String limits(Curve curve) {
        return curve.low().isEmpty() && curve.high().isEmpty()
                ? "none"
                : (curve.low().isPresent() ? "least " + curve.low().getAsDouble() : "")
                        + (curve.low().isPresent() && curve.high().isPresent() ? ", " : "")
                        + (curve.high().isPresent() ? "greatest " + curve.high().getAsDouble() : "");
    }

    private static String drawn(Curve curve) {
        return (curve.hidden() ? "hidden, " : "")
                + (curve.look().colour() > 0 ? "in colour " + curve.look().colour() + ", " : "")
                + (curve.look().wide() ? "wide, " : "")
                + (curve.look().decimals() >= 0 ? "with " + curve.look().decimals() + " decimals, " : "")
                + (curve.marked() ? "with marks, " : "")
                + (curve.stepped() ? "in steps" : "as a line");
    }

    @Override
    public Optional<TrendDefinition> duplicate(TrendDefinition of, String id, String name) {
        return Optional.of(new TrendDefinition(id, name, of.description(), of.window(), of.bands(), of.curves()));
    }
}
