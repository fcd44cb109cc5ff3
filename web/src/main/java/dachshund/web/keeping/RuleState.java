package dachshund.web.keeping;

import dachshund.core.archive.ArchiveStore.Counts;
import dachshund.core.archive.TagKey;
import dachshund.core.keep.Assigned;
import dachshund.core.keep.KeepingRuleDefinition;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.time.OpcUaTime;
import dachshund.engine.Engine;
import dachshund.engine.archive.Archive.RuleStatus;
import dachshund.office.archive.BlockTable.Extent;
import dachshund.office.archive.Upkeep;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.springframework.stereotype.Component;

/** How keeping rules stand: what came of their tags since the start, and what of them is in the archive. */
@Component
class RuleState {

    private static final double SECONDS_PER_DAY = 86_400;

    private final Engine engine;
    private final Upkeep upkeep;

    RuleState(Engine engine, Upkeep upkeep) {
        this.engine = engine;
        this.upkeep = upkeep;
    }

    /**
     * A rule that is released.
     *
     * @param values  in the archive, of all its tags
     * @param oldest  empty where there is none
     * @param bad     tags whose value is bad now
     * @param silent  tags of which nothing has come since the start
     * @param refused tags of which values were refused since the start
     */
    public record State(
            int tags,
            Counts counts,
            long values,
            long bytes,
            Optional<Instant> oldest,
            Optional<Instant> newest,
            long bad,
            long silent,
            long refused) {

        private double seconds() {
            return oldest.isPresent()
                    ? Math.max(1, Duration.between(oldest.get(), newest.get()).toSeconds())
                    : 1;
        }

        /** Over the time that is there. */
        public double valuesPerSecond() {
            return values / seconds();
        }

        public long bytesPerDay() {
            return Math.round(bytes / seconds() * SECONDS_PER_DAY);
        }

        /** "3 bad, 1 silent", or that there is none. */
        public String trouble() {
            List<String> parts = new ArrayList<>();
            if (bad > 0) {
                parts.add(bad + " bad");
            }
            if (silent > 0) {
                parts.add(silent + " silent");
            }
            if (refused > 0) {
                parts.add("values of " + refused + " refused");
            }
            return parts.isEmpty() ? "none" : String.join(", ", parts);
        }
    }

    /** One tag of a rule. */
    public record Line(
            String key,
            String name,
            String state,
            String sentence,
            long values,
            long bytes,
            Optional<Instant> oldest,
            Optional<Instant> newest) {}

    /** Empty where the rule is not released. */
    Optional<State> of(KeepingRuleDefinition rule) {
        RuleStatus status = engine.archive().status(rule.id()).orElse(null);
        if (status == null) {
            return Optional.empty();
        }
        Map<Long, Extent> extents = upkeep.extents();
        long values = 0;
        long bytes = 0;
        long first = Long.MAX_VALUE;
        long last = Long.MIN_VALUE;
        long bad = 0;
        long silent = 0;
        List<Assigned.Tag> tags = engine.archive().assigned().of(rule.id());
        for (Assigned.Tag tag : tags) {
            TagValue value = engine.tags().entry(tag.ref()).value();
            silent += value.arrived() ? 0 : 1;
            bad += value.arrived() && value.quality().isBad() ? 1 : 0;
            Extent extent = extents.get(TagKey.of(tag.ref()));
            if (extent != null) {
                values += extent.values();
                bytes += extent.bytes();
                first = Math.min(first, extent.first());
                last = Math.max(last, extent.last());
            }
        }
        boolean any = last > Long.MIN_VALUE;
        return Optional.of(new State(
                tags.size(),
                status.counts(),
                values,
                bytes,
                any ? Optional.of(OpcUaTime.toInstant(first)) : Optional.empty(),
                any ? Optional.of(OpcUaTime.toInstant(last)) : Optional.empty(),
                bad,
                silent,
                status.trouble()));
    }

    /** The tags of a rule that is released, those in trouble first. */
    List<Line> lines(KeepingRuleDefinition rule) {
        Map<Long, Extent> extents = upkeep.extents();
        List<Line> good = new ArrayList<>();
        List<Line> all = new ArrayList<>();
        for (Assigned.Tag tag : engine.archive().assigned().of(rule.id())) {
            TagRef ref = tag.ref();
            TagValue value = engine.tags().entry(ref).value();
            Optional<Extent> extent = Optional.ofNullable(extents.get(TagKey.of(ref)));
            String state = !value.arrived() ? "silent" : value.quality().isBad() ? "bad" : "kept";
            String sentence = !value.arrived()
                    ? "Nothing has come of it since the start."
                    : value.quality().isBad() ? value.quality().sentence() : "";
            Line line = new Line(
                    ref.source() + " " + ref.address(),
                    tag.source().name() + " / " + tag.info().fullName(),
                    state,
                    sentence,
                    extent.map(Extent::values).orElse(0L),
                    extent.map(Extent::bytes).orElse(0L),
                    extent.map(each -> OpcUaTime.toInstant(each.first())),
                    extent.map(each -> OpcUaTime.toInstant(each.last())));
            (state.equals("kept") ? good : all).add(line);
        }
        all.addAll(good);
        return all;
    }

    /** Why values do not come to the archive; empty where they do. */
    String trouble() {
        return engine.archive().trouble();
    }

    /** What of its journal was altered on disk, in a sentence each. */
    List<String> damage() {
        return engine.archive().damage();
    }
}
