package dachshund.office.rehearse;

import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import java.math.BigDecimal;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Optional;

/** Values of the archive as recorders had them. */
final class PastValues {

    private PastValues() {}

    /** One value as it came; a gap is bad, since nothing is known then. */
    static TagValue value(Series series, int index, Optional<TagInfo> info) {
        Instant at = OpcUaTime.toInstant(series.time(index));
        int mark = series.mark(index);
        Quality quality = Marks.isGap(mark) ? Rehearsal.UNKNOWN : Marks.quality(mark);
        return new TagValue(series.value(index).map(kept -> asItCame(kept, info)), quality, at, at);
    }

    /** The archive keeps what is neither number nor truth value as text. */
    private static Object asItCame(Object kept, Optional<TagInfo> info) {
        if (!(kept instanceof String text) || info.isEmpty()) {
            return kept;
        }
        DataKind kind = info.get().kind();
        try {
            return kind == DataKind.TIME
                    ? Instant.parse(text)
                    : kind == DataKind.UNSIGNED || kind == DataKind.NUMBER || kind == DataKind.INTEGER
                            ? new BigDecimal(text)
                            : text;
        } catch (DateTimeParseException | NumberFormatException other) {
            return text;
        }
    }
}
