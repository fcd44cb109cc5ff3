package dachshund.core.row;

import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.Shape;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * Makes rows of one layout from tag values. The same values give the same rows. One instance is used by one thread at a
 * time.
 */
public final class RowMaker {

    private final Layout layout;
    private final List<Column> written;
    private final CellSource[] sources;
    private final TagIndex index = new TagIndex();
    private final int lineCount;

    public RowMaker(Layout layout, RowFacts facts) {
        this.layout = layout;
        this.written = layout.written();
        layout.lines().forEach(line -> index.of(line.tag()));
        CellSources making = new CellSources(layout, facts, index);
        this.sources = written.stream().map(making::of).toArray(CellSource[]::new);
        this.lineCount = layout.shape() == Shape.ROW_PER_TAG
                ? layout.lines().size()
                : written.stream()
                        .map(Column::from)
                        .filter(ColumnSource.FromTags.class::isInstance)
                        .map(ColumnSource.FromTags.class::cast)
                        .filter(ColumnSource.FromTags::extraRows)
                        .mapToInt(from -> from.tags().size())
                        .max()
                        .orElse(1);
    }

    /** The tags whose values {@link #make} needs, in the order it needs them. */
    public List<TagRef> tags() {
        return index.tags();
    }

    /**
     * The rows of one instant: one, or as many as the layout has lines.
     *
     * @param id         identity of the first row; the others differ in their line
     * @param recordTime the scheduled instant
     */
    public List<Made> make(RowId id, Instant recordTime, Snapshot values) {
        if (lineCount == 1 && layout.shape() != Shape.ROW_PER_TAG) {
            return List.of(line(new Moment(id, recordTime, values, 0)));
        }
        Optional<Set<TagRef>> only =
                layout.shape() == Shape.ROW_PER_TAG && layout.changedLinesOnly() ? values.changed() : Optional.empty();
        List<Made> made = new ArrayList<>(lineCount);
        for (int i = 0; i < lineCount; i++) {
            if (only.isEmpty() || only.get().contains(layout.lines().get(i).tag())) {
                made.add(line(new Moment(id.withLine(i), recordTime, values, i)));
            }
        }
        return made;
    }

    private Made line(Moment moment) {
        Object[] cells = new Object[sources.length];
        for (int i = 0; i < cells.length; i++) {
            try {
                cells[i] = sources[i].cell(moment);
            } catch (RowRefusal.Skip skip) {
                return new Made.Skipped(skip.getMessage());
            } catch (RowRefusal refusal) {
                return new Made.Refused(moment.id(), moment.recordTime(), texts(moment), refusal.getMessage());
            }
        }
        return new Made.Whole(new Row(moment.id(), moment.recordTime(), cells));
    }

    /** The values of a refused row as text, so that a person can mend them; null for no value. */
    private List<String> texts(Moment moment) {
        List<String> texts = new ArrayList<>(sources.length);
        for (CellSource source : sources) {
            Object raw = source.raw(moment);
            texts.add(raw == null ? null : Conversion.plain(raw));
        }
        return texts;
    }

    /** What the cells of one row are made of. */
    record Moment(RowId id, Instant recordTime, Snapshot values, int line) {
        TagValue now(int tag) {
            return values.now()[tag];
        }

        TagValue lastGood(int tag) {
            return values.lastGood()[tag];
        }
    }

    /** Makes one cell. */
    interface CellSource {
        Object cell(Moment moment) throws RowRefusal;

        /** The value before it is fitted to its column; null for none. */
        Object raw(Moment moment);
    }

    /** The row is not written. */
    static class RowRefusal extends Exception {
        RowRefusal(String sentence) {
            super(sentence, null, false, false);
        }

        /** It is left out by design. */
        static final class Skip extends RowRefusal {
            Skip(String reason) {
                super(reason);
            }
        }
    }

    /** Gives each tag a place, in the order in which they come up. */
    static final class TagIndex {
        private final List<TagRef> tags = new ArrayList<>();

        int of(TagRef tag) {
            int known = tags.indexOf(tag);
            if (known < 0) {
                tags.add(tag);
                return tags.size() - 1;
            }
            return known;
        }

        List<TagRef> tags() {
            return List.copyOf(tags);
        }
    }

    static Object unlessBad(Column column, TagValue value, TagValue lastGood) throws RowRefusal {
        if (!value.quality().isBad()) {
            return value.value().orElse(null);
        }
        return switch (column.badQuality()) {
            case WRITE_NULL -> null;
            case AS_IS -> value.value().orElse(null);
            case LAST_GOOD -> lastGood.value().orElse(null);
            case SKIP_ROW ->
                throw new RowRefusal.Skip("the tag of column " + column.name() + " is bad ("
                        + value.quality().words() + ")");
            case SET_ASIDE ->
                throw new RowRefusal("Column " + column.name() + ": its tag is bad ("
                        + value.quality().words() + ").");
        };
    }
}
