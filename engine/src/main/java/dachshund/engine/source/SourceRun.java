package dachshund.engine.source;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.source.LinkState;
import dachshund.core.source.PlantLink;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagInfo;
import dachshund.core.time.PlantClock;
import dachshund.engine.tag.TagTable;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.atomic.LongAdder;
import java.util.stream.Collectors;

/** One source at work: hands its link's batches to the tag table and keeps its state. */
public final class SourceRun implements PlantLink.Listener {

    private final TagTable table;
    private final PlantClock clock;
    private final PlantLink link;
    private final LongAdder changes = new LongAdder();
    private volatile SourceDefinition definition;
    private volatile Status status;

    /** How a source stands, since when, and why in words. */
    public record Status(LinkState state, Instant since, String sentence) {
    }

    SourceRun(SourceDefinition definition, PlantLink link, TagTable table, PlantClock clock, ScheduledExecutorService work) {
        this.definition = definition;
        this.link = link;
        this.table = table;
        this.clock = clock;
        this.status = new Status(LinkState.NOT_PROVEN, clock.now(), "Nothing has been tried yet.");
        link.want(addresses(definition));
        link.start(this, work);
    }

    public SourceDefinition definition() {
        return definition;
    }

    public Status status() {
        return status;
    }

    /** How many changes came since the start. */
    public long changes() {
        return changes.sum();
    }

    /** How many of its tags have a value that is not bad. */
    public long liveTags() {
        return table.live(definition.id());
    }

    @Override
    public void onBatch(List<TagChange> batch) {
        changes.add(batch.size());
        table.offer(definition.id(), batch);
    }

    @Override
    public void onState(LinkState state, String sentence) {
        if (state == LinkState.AWAY) {
            table.away(definition.id(), clock.now());
        }
        if (state != status.state() || !sentence.equals(status.sentence())) {
            Instant since = state == status.state() ? status.since() : clock.now();
            status = new Status(state, since, sentence);
        }
    }

    /** Takes over another set of tags or a name; what stays is not touched. */
    void follow(SourceDefinition next) {
        Set<String> gone = new HashSet<>(addresses(definition));
        Set<String> wanted = addresses(next);
        gone.removeAll(wanted);
        definition = next;
        link.want(wanted);
        table.forget(next.id(), gone);
    }

    void close() {
        link.close();
        table.away(definition.id(), clock.now());
    }

    private static Set<String> addresses(SourceDefinition definition) {
        return definition.tags().stream().map(TagInfo::address).collect(Collectors.toSet());
    }
}
