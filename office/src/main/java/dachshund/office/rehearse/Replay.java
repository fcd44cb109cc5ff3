package dachshund.office.rehearse;

import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Series;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.core.window.Span;
import dachshund.office.archive.Histories;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** A recorder's design run over the archive, hour by hour, so that a month takes no more memory than an hour. */
public final class Replay {

    private static final Duration PART = Duration.ofHours(1);

    private final Histories histories;
    private final RecorderDefinition recorder;
    private final Plant plant;
    private final Set<TagRef> tags;

    /** Is told when a part is over, and may throw what it likes. */
    public interface Part {
        void over(Instant from, Instant to) throws Exception;
    }

    public Replay(Histories histories, RecorderDefinition recorder, Plant plant) {
        this.histories = histories;
        this.recorder = recorder;
        this.plant = plant;
        this.tags = Rehearsal.tags(recorder, plant);
    }

    /** So many parts has a window. */
    public static long parts(Span span) {
        return Duration.between(span.from(), span.to()).plus(PART).minusNanos(1).dividedBy(PART);
    }

    /** Makes the rows of a window. Nothing is known of a tag before its first value in the archive. */
    public void run(RowId identity, Span span, Rehearsal.Taker taker, Part part) throws Exception {
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
                            : PastValues.value(series, first - 1, info));
            List<TagValue> theirs = new ArrayList<>(end - first);
            for (int i = first; i < end; i++) {
                theirs.add(PastValues.value(series, i, info));
            }
            all.put(tag, theirs);
        }
        return all;
    }
}
