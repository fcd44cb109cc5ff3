package dachshund.engine;

import dachshund.core.definition.Plant;
import dachshund.core.source.LinkProblem;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagText;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Values;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.source.Sources;
import dachshund.engine.tag.TagTable;
import java.util.function.Supplier;

/** The plant as transactions reach it: values of the tag table, and writes through the sources. */
final class PlantWrites implements PlantSide {

    private final Sources sources;
    private final TagTable table;
    private final Supplier<Plant> plant;

    PlantWrites(Sources sources, TagTable table, Supplier<Plant> plant) {
        this.sources = sources;
        this.table = table;
        this.plant = plant;
    }

    @Override
    public TagValue now(TagRef tag) {
        return table.entry(tag).value();
    }

    @Override
    public TagValue lastGood(TagRef tag) {
        return table.entry(tag).lastGood();
    }

    @Override
    public String write(TagRef tag, Object value, double tolerance, String by) {
        TagInfo info = plant.get()
                .tag(tag)
                .orElseThrow(() ->
                        new IllegalArgumentException("The tag " + tag.address() + " is not taken from its source."));
        try {
            Sources.Written written = sources.write(tag, fitted(value, info), by);
            Object after = written.after().value().orElse(null);
            if (!written.same() && !near(written.asked(), after, tolerance)) {
                throw new IllegalArgumentException(info.name() + " was set to " + Values.words(written.asked())
                        + " and reads back " + Values.words(after) + ".");
            }
            return Values.words(after);
        } catch (LinkProblem refused) {
            throw new IllegalArgumentException(refused.getMessage(), refused);
        }
    }

    @Override
    public void publish(String source, String topic, String payload, boolean retained) {
        try {
            sources.publish(source, topic, payload, retained);
        } catch (LinkProblem refused) {
            throw new IllegalArgumentException(refused.getMessage(), refused);
        }
    }

    private static Object fitted(Object value, TagInfo info) throws LinkProblem {
        if (value instanceof Boolean truth && info.kind() == DataKind.BOOLEAN) {
            return truth;
        }
        String text = value instanceof Boolean truth ? (truth ? "1" : "0") : Values.words(value);
        try {
            return TagText.read(info.kind(), text);
        } catch (IllegalArgumentException no) {
            throw new IllegalArgumentException(info.name() + " cannot be set to " + text + ": " + no.getMessage(), no);
        }
    }

    private static boolean near(Object asked, Object read, double tolerance) {
        return asked instanceof Number a
                && read instanceof Number b
                && Math.abs(a.doubleValue() - b.doubleValue()) <= tolerance;
    }
}
