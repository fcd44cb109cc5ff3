package dachshund.web.plant;

import dachshund.core.tag.TagValue;
import dachshund.engine.Engine;
import dachshund.engine.tag.TagTable;
import dachshund.office.tag.TagFinder;
import dachshund.office.tag.TagFinder.FoundTag;
import dachshund.web.page.Shown;
import dachshund.web.page.Times;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedList;
import java.util.List;
import java.util.Locale;
import org.springframework.stereotype.Component;

/** Tags with their values as lists and cards show them. */
@Component
class LiveTags {

    private static final Duration PLOT = Duration.ofMinutes(5);
    private static final int PLOT_POINTS = 75;

    private final Engine engine;
    private final Shown shown;
    private final Times times;

    /**
     * A line of the tag list.
     *
     * @param quality    good, uncertain or bad
     * @param stale      whether it should have changed by now and did not
     * @param numeric    whether it can be plotted
     * @param sourceTime in plant time, with UTC
     * @param plot       pairs of seconds before now and value; a break is an absent value
     */
    public record Row(
            String key,
            String name,
            String where,
            String description,
            String unit,
            String value,
            String quality,
            String sentence,
            String age,
            boolean stale,
            boolean numeric,
            String sourceTime,
            List<Double[]> plot) {}

    LiveTags(Engine engine, Shown shown, Times times) {
        this.engine = engine;
        this.shown = shown;
        this.times = times;
    }

    List<Row> rows(List<FoundTag> tags) {
        Instant now = engine.clock().now();
        return tags.stream().map(tag -> row(tag, now)).toList();
    }

    Row row(FoundTag tag, Instant now) {
        TagValue value = tag.entry().value();
        boolean numeric = tag.info().kind().numeric();
        boolean stale = TagFinder.stale(tag, now);
        String sentence = value.quality().sentence()
                + (stale ? ", unchanged for " + times.age(tag.entry().changedAt()) : "");
        return new Row(
                tag.key(),
                tag.info().name(),
                (tag.info().path().isEmpty() ? "" : tag.info().path() + " · ")
                        + tag.source().name(),
                tag.info().description(),
                tag.info().unit(),
                shown.value(value, tag.info()),
                value.quality().grade().name().toLowerCase(Locale.ROOT),
                sentence,
                value.arrived() ? times.age(value.quality().isBad() ? value.receiveTime() : value.sourceTime()) : "",
                stale,
                numeric,
                value.arrived() ? times.fine(value.sourceTime()) + " · " + times.utc(value.sourceTime()) : "",
                numeric ? plot(tag.entry(), now) : List.of());
    }

    private static List<Double[]> plot(TagTable.Entry entry, Instant now) {
        return points(entry.look(now).since(now.minus(PLOT)), now, PLOT_POINTS);
    }

    /** Pairs of seconds before now and value, thinned to about so many; what is left out never hides a break. */
    static List<Double[]> points(List<TagValue> values, Instant now, int most) {
        LinkedList<Double[]> points = new LinkedList<>();
        int step = Math.max(1, values.size() / most);
        for (int i = values.size() - 1; i >= 0; i -= step) {
            TagValue value = values.get(i);
            boolean broken = values.subList(Math.max(0, i - step + 1), i + 1).stream()
                    .anyMatch(each -> each.quality().isBad());
            double ago = Duration.between(value.receiveTime(), now).toMillis() / 1000.0;
            points.addFirst(new Double[] {
                ago, broken ? null : value.value().map(LiveTags::number).orElse(null)
            });
        }
        return points;
    }

    static Double number(Object value) {
        return value instanceof Number number
                ? (Double) number.doubleValue()
                : value instanceof Boolean on ? (Double) (on ? 1.0 : 0.0) : null;
    }
}
