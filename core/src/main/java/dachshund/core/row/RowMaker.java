package dachshund.core.row;

import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;

/**
 * Makes rows of one layout from tag values. Pure and immutable: the same values give the same row. Safe for use by
 * many threads.
 */
public final class RowMaker {

    private final List<Column> written;
    private final String recorderName;
    private final List<TagRef> tags = new ArrayList<>();
    private final int[] tagOf;

    public RowMaker(Layout layout, String recorderName) {
        this.written = layout.written();
        this.recorderName = recorderName;
        this.tagOf = new int[written.size()];
        for (int i = 0; i < tagOf.length; i++) {
            tagOf[i] = -1;
            if (written.get(i).from() instanceof ColumnSource.FromTag from) {
                int known = tags.indexOf(from.tag());
                tagOf[i] = known >= 0 ? known : tags.size();
                if (known < 0) {
                    tags.add(from.tag());
                }
            }
        }
    }

    /** The tags whose values {@link #make} needs, in the order it needs them. */
    public List<TagRef> tags() {
        return List.copyOf(tags);
    }

    /**
     * @param id         identity of the row
     * @param recordTime the scheduled instant
     * @param values     the latest value of each of {@link #tags}
     */
    public Made make(RowId id, Instant recordTime, TagValue[] values) {
        Object[] cells = new Object[written.size()];
        for (int i = 0; i < cells.length; i++) {
            Column column = written.get(i);
            TagValue tagValue = tagOf[i] < 0 ? TagValue.NONE : values[tagOf[i]];
            boolean bad = column.from() instanceof ColumnSource.FromTag from
                    && from.aspect() == ColumnSource.Aspect.VALUE && tagValue.quality().isBad();
            if (bad && column.badQuality() == BadQuality.SKIP_ROW) {
                return new Made.Skipped("the tag of column " + column.name() + " is bad (" + tagValue.quality().words() + ")");
            }
            if (bad && column.badQuality() == BadQuality.SET_ASIDE) {
                return refused(id, recordTime, values, "Column " + column.name() + ": its tag is bad (" + tagValue.quality().words() + ").");
            }
            Object raw = bad && column.badQuality() == BadQuality.WRITE_NULL ? null : raw(column, tagValue, id, recordTime);
            if (raw == null) {
                if (column.required()) {
                    return refused(id, recordTime, values, "Column " + column.name() + " is required and has no value.");
                }
                continue;
            }
            try {
                cells[i] = Conversion.convert(raw, column.type());
            } catch (Conversion.DoesNotFit problem) {
                return refused(id, recordTime, values, "The value for column " + column.name() + " " + problem.getMessage() + ".");
            }
        }
        return new Made.Whole(new Row(id, recordTime, cells));
    }

    private Object raw(Column column, TagValue value, RowId id, Instant recordTime) {
        ColumnSource source = column.from();
        if (source instanceof ColumnSource.FromTag from) {
            return switch (from.aspect()) {
                case VALUE -> value.value().orElse(null);
                case QUALITY -> column.type().numeric() ? (Object) value.quality().code() : value.quality().sentence();
                case SOURCE_TIME -> value.arrived() ? value.sourceTime() : null;
            };
        }
        if (source instanceof ColumnSource.Constant constant) {
            return constant.text();
        }
        if (source instanceof ColumnSource.FromRun run) {
            return switch (run.variable()) {
                case RECORD_TIME -> recordTime;
                case SEQUENCE -> id.sequence();
                case ROW_ID -> id.toString();
                case RECORDER -> recorderName;
            };
        }
        throw new IllegalStateException("An auto-number column is never written.");
    }

    private Made refused(RowId id, Instant recordTime, TagValue[] values, String reason) {
        List<String> texts = new ArrayList<>(written.size());
        for (int i = 0; i < written.size(); i++) {
            Object raw = raw(written.get(i), tagOf[i] < 0 ? TagValue.NONE : values[tagOf[i]], id, recordTime);
            texts.add(raw == null ? "" : Conversion.plain(raw));
        }
        return new Made.Refused(id, recordTime, texts, reason);
    }
}
