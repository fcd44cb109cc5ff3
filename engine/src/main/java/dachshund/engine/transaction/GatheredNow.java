package dachshund.engine.transaction;

import dachshund.core.ledger.Run;
import dachshund.core.tag.TagRef;
import dachshund.core.tag.TagValue;
import dachshund.core.transaction.Gathered;
import dachshund.core.transaction.Known;
import dachshund.core.transaction.OnEquipment;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.transaction.Values;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Function;

/**
 * What a run begins with, but for what is computed of the time before: see {@link Past}.
 *
 * @param values   what it knows itself, and what is gathered, by name; without what cannot be trusted
 * @param snapshot what was read when
 * @param problem  why it cannot begin, in a sentence; empty where it can
 */
record GatheredNow(Map<String, Object> values, Map<String, Run.Read> snapshot, String problem) {

    /**
     * @param design   with the tags of its equipment in their places
     * @param number   of the request; null for none
     * @param identity what tells the run from all others
     * @param given    values that count in the place of what would be read
     * @param now      the values that count
     * @param lastGood of each tag, the last that was not bad
     */
    static GatheredNow of(
            TransactionDefinition design,
            OnEquipment equipment,
            String site,
            Instant at,
            Object number,
            String identity,
            Map<String, Object> given,
            Function<TagRef, TagValue> now,
            Function<TagRef, TagValue> lastGood) {
        Map<String, Object> values = new LinkedHashMap<>();
        values.put(Known.FIRED, at);
        values.put(Known.REQUEST, number);
        values.put(Known.RUN, identity);
        values.put(Known.TRANSACTION, design.name());
        values.put(Known.SITE, site);
        values.put(Known.EQUIPMENT, equipment.name().isEmpty() ? null : equipment.name());
        Map<String, Run.Read> snapshot = new LinkedHashMap<>();
        for (Gathered each : design.gathers()) {
            if (each.over().isPresent() || given.containsKey(each.name())) {
                continue;
            }
            if (each.isGiven()) {
                if (each.bad() == Gathered.WhenBad.FAIL) {
                    return new GatheredNow(values, snapshot, each.name() + " was not given.");
                }
                values.put(each.name(), null);
                continue;
            }
            TagValue value = equipment.value(each, now, at);
            boolean bad = value.quality().isBad() || value.value().isEmpty();
            if (bad && each.bad() == Gathered.WhenBad.LAST_GOOD) {
                value = equipment.value(each, lastGood, at);
            }
            snapshot.put(each.name(), read(value));
            if (bad && each.bad() == Gathered.WhenBad.FAIL) {
                String why = value.quality().words();
                return new GatheredNow(
                        values,
                        snapshot,
                        each.name() + " has no value that can be trusted: " + (why.isEmpty() ? "there is none" : why)
                                + ".");
            }
            boolean nothing = bad && each.bad() == Gathered.WhenBad.NOTHING;
            values.put(each.name(), nothing ? null : value.value().orElse(null));
        }
        given.forEach((name, value) -> {
            values.put(name, value);
            snapshot.put(name, new Run.Read(Values.words(value), at, ""));
        });
        return new GatheredNow(values, snapshot, "");
    }

    /** What a trigger brought, or what stands there once the settle time is over, which is waited for here. */
    static GatheredNow of(TransactionDefinition design, Trigger trigger, OneRun.Around around) {
        List<TagRef> reads = design.reads();
        Duration settle = design.policy().settle();
        boolean anew = !settle.isZero() || trigger.now().length == 0;
        Duration since = Duration.between(trigger.at(), around.clock().now());
        long until = System.nanoTime()
                + Math.min(settle.toNanos(), settle.minus(since).toNanos());
        while (System.nanoTime() < until && !around.closing().getAsBoolean()) {
            LockSupport.parkNanos(until - System.nanoTime());
        }
        return of(
                design,
                around.equipment(),
                around.site(),
                trigger.at(),
                trigger.number(),
                trigger.identity(),
                trigger.given(),
                tag -> anew ? around.plant().now(tag) : trigger.now()[reads.indexOf(tag)],
                tag -> anew ? around.plant().lastGood(tag) : trigger.lastGood()[reads.indexOf(tag)]);
    }

    private static Run.Read read(TagValue value) {
        return new Run.Read(
                value.value().map(Values::words).orElse("nothing"),
                value.sourceTime(),
                value.quality().isBad() ? value.quality().words() : "");
    }
}
