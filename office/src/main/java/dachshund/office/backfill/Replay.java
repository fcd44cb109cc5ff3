package dachshund.office.backfill;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.row.RowId;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.window.Span;
import dachshund.office.archive.Histories;
import java.math.BigDecimal;
import java.time.Duration;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** A recorder's design run over the archive, hour by hour, so that a month takes no more memory than an hour. */
final class Replay {

    private static final Duration PART = Duration.ofHours(1);

    private final Histories histories;
    private final RecorderDefinition recorder;
    private final Plant plant;
    private final Set<TagRef> tags;

    /** Is told when a part is over, and may throw what it likes. */
    interface Part {
        void over(Instant from, Instant to) throws Exception;
    }

    Replay(Histories histories, RecorderDefinition recorder, Plant plant) {
        this.histories = histories;
        this.recorder = recorder;
        this.plant = plant;
        this.tags = Rehearsal.tags(recorder, plant);
    }

    /** So many parts has a window. */
    static long parts(Span span) {
        return Duration.between(span.from(), span.to()).plus(PART).minusNanos(1).dividedBy(PART);
    }

    /** Makes the rows of a window. Nothing is known of a tag before its first value in the archive. */
    void run(RowId identity, Span span, Rehearsal.Taker taker, Part part) throws Exception {
        Rehearsal rehearsal = null;
        for (Instant from = span.from(); from.isBefore(span.to()); from = from.plus(PART)) {
            Instant end = from.plus(PART);
            Instant to = end.isBefore(span.to()) ? end : span.to();
            Map<TagRef, TagValue> before = new HashMap<>();
            Map<TagRef, List<TagValue>> values = values(from, to, before);
            if (rehearsal == null) {
                rehearsal = Rehearsal.begin(recorder, plant, identity, before, from.minusNanos(1), taker);
            }
            rehearsal.go(values, to.minusNanos(1));
            part.over(from, to);
        }
    }

    private Map<TagRef, List<TagValue>> values(Instant from, Instant to, Map<TagRef, TagValue> before) throws Problem {
        Map<TagRef, List<TagValue>> all = new HashMap<>();
        for (TagRef tag : tags) {
            Histories.History history = histories.read(tag, from, to);
            if (history.damaged() > 0) {
                throw new Problem(
                        "A block of the archive was altered on disk; what it held of a tag is not known.", null);
            }
            Series series = history.series();
            int first = series.before(OpcUaTime.toTicks(from));
            int end = series.before(OpcUaTime.toTicks(to));
            Optional<TagInfo> info = plant.tag(tag);
            before.put(
                    tag,
                    first == 0
                            ? new TagValue(Optional.empty(), Rehearsal.UNKNOWN, Instant.EPOCH, Instant.EPOCH)
                            : value(series, first - 1, info));
            List<TagValue> theirs = new ArrayList<>(end - first);
            for (int i = first; i < end; i++) {
                theirs.add(value(series, i, info));
            }
            all.put(tag, theirs);
        }
        return all;
    }

    private static TagValue value(Series series, int index, Optional<TagInfo> info) {
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
