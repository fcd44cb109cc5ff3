package dachshund.office.query;

import dachshund.core.aggregate.Aggregate;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.destination.StoreProblem;
import dachshund.core.keep.Selection;
import dachshund.core.query.TagHistory;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.query.TagHistory.Mode;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.window.Span;
import dachshund.engine.Engine;
import dachshund.engine.transaction.PastValues;
import dachshund.office.archive.Histories;
import dachshund.office.definition.Definitions;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.Supplier;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.stereotype.Component;

/** The archive as transactions ask it: what is computed of a tag before a run. */
@Component
class PastOfTags implements PastValues {

    /** A run has a limit of its own, and does not wait longer for the archive than this. */
    private static final Duration LIMIT = Duration.ofSeconds(30);

    private static final Duration HEARD = Duration.ofSeconds(5);

    private final Histories histories;
    private final TagRows rows;
    private final Function<TagRef, Optional<TagInfo>> tags;
    private final Supplier<Instant> now;
    private final Predicate<Duration> heard;
    private final Supplier<String> trouble;
    private volatile Instant heardTo = Instant.EPOCH;

    @Autowired
    PastOfTags(Histories histories, TagRows rows, Definitions definitions, Engine engine) {
        this(
                histories,
                rows,
                definitions::tag,
                engine.clock()::now,
                engine.archive()::heardSoFar,
                engine.archive()::trouble);
        engine.transactions().askIn(this);
    }

    /**
     * @param heard   waits until all that was heard so far can be asked for
     * @param trouble why the archive does not store now; empty where it does
     */
    PastOfTags(
            Histories histories,
            TagRows rows,
            Function<TagRef, Optional<TagInfo>> tags,
            Supplier<Instant> now,
            Predicate<Duration> heard,
            Supplier<String> trouble) {
        this.trouble = trouble;
        this.histories = histories;
        this.rows = rows;
        this.tags = tags;
        this.now = now;
        this.heard = heard;
    }

    /** What was heard up to an instant is waited for once, however much is asked of the time before it. */
    private void heardUpTo(Instant at) throws StoreProblem {
        if (!at.isAfter(heardTo)) {
            return;
        }
        Instant before = now.get();
        if (!heard.test(HEARD)) {
            throw new StoreProblem(
                    StoreProblem.Kind.AWAY,
                    -1,
                    "The archive is behind: what was heard of tags lately cannot be asked for yet.",
                    null);
        }
        heardTo = before;
    }

    /** What was on its way may have been let go of meanwhile, to be read anew. */
    private void stillThere() throws StoreProblem {
        if (!trouble.get().isEmpty()) {
            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, "The archive is not whole now. " + trouble.get(), null);
        }
    }

    @Override
    public Object computed(TagRef tag, Calculation what, Instant from, Instant to) throws StoreProblem {
        heardUpTo(to);
        Object value = from(tag, what, from, to);
        stillThere();
        return value;
    }

    private Object from(TagRef tag, Calculation what, Instant from, Instant to) throws StoreProblem {
        TagInfo info = tags.apply(tag)
                .orElseThrow(() -> new StoreProblem(
                        StoreProblem.Kind.TABLE, -1, "The tag " + tag.address() + " is not there any more.", null));
        if (!info.kind().numeric()) {
            return ofText(tag, what, from, to);
        }
        Object[] found = new Object[1];
        TagHistory one = new TagHistory(
                Selection.ticked(List.of(tag)),
                Mode.AGGREGATED,
                Optional.empty(),
                Duration.between(from, to),
                List.of(what),
                true);
        try {
            rows.give(
                    one,
                    List.of(new MeantTags.Tag(tag, info, "value")),
                    Optional.of(new Span(from, to, false)),
                    LIMIT,
                    1,
                    new TableReading.Taker() {
                        @Override
                        public void columns(List<TableShape.Column> columns) {
                            // One time and one value.
                        }

                        @Override
                        public boolean row(List<Object> cells) {
                            found[0] = cells.get(1);
                            return true;
                        }
                    });
        } catch (QueryProblem no) {
            throw new StoreProblem(StoreProblem.Kind.TABLE, -1, no.getMessage(), no);
        }
        return found[0];
    }

    private Object ofText(TagRef tag, Calculation what, Instant from, Instant to) throws StoreProblem {
        Series series = read(tag, from, to);
        long begin = OpcUaTime.toTicks(from);
        long end = OpcUaTime.toTicks(to);
        Object first = null;
        Object last = null;
        long count = 0;
        for (int i = 0; i < series.size(); i++) {
            if (series.time(i) < end && good(series, i)) {
                last = series.value(i).orElseThrow();
                boolean within = series.time(i) >= begin;
                count += within ? 1 : 0;
                // What holds at the beginning came before it.
                first = first == null || series.time(i) <= begin ? last : first;
            }
        }
        Aggregate aggregate = what instanceof Calculation.OfPart13 part13 ? part13.aggregate() : null;
        if (aggregate == Aggregate.COUNT) {
            return count;
        }
        return aggregate == Aggregate.START ? first : aggregate == Aggregate.END ? last : null;
    }

    private static boolean good(Series series, int index) {
        int mark = series.mark(index);
        return !Marks.isGap(mark)
                && Marks.quality(mark).grade() != Quality.Grade.BAD
                && series.value(index).isPresent();
    }

    private Series read(TagRef tag, Instant from, Instant to) throws StoreProblem {
        try {
            long count = histories.count(tag, from, to);
            if (count > Histories.AT_ONCE) {
                throw new StoreProblem(
                        StoreProblem.Kind.TABLE,
                        -1,
                        "About " + count + " values of it are kept in this time, and no more than " + Histories.AT_ONCE
                                + " are read at once. Take a shorter time.",
                        null);
            }
            return histories.read(tag, from, to).series();
        } catch (Problem away) {
            throw new StoreProblem(StoreProblem.Kind.AWAY, -1, away.getMessage(), away);
        }
    }

    @Override
    public Optional<Held> held(TagRef tag, Instant at, boolean before, Duration most) throws StoreProblem {
        heardUpTo(at);
        Instant first = at.minus(most);
        Series series = read(tag, first, at.plusMillis(1));
        int last = series.before(OpcUaTime.toTicks(at) + 1) - 1;
        stillThere();
        Optional<Held> now = stretch(series, last, first, at);
        if (!before || now.isEmpty() || !now.get().from().isAfter(first)) {
            return before ? Optional.empty() : now;
        }
        Instant changed = now.get().from();
        return stretch(series, series.before(OpcUaTime.toTicks(changed)) - 1, first, changed);
    }

    /** How long the value at an index, or the last good one before it, has been there. */
    private static Optional<Held> stretch(Series series, int last, Instant first, Instant to) {
        Object value = null;
        Instant from = null;
        for (int i = last; i >= 0; i--) {
            if (good(series, i)) {
                Object is = series.value(i).orElseThrow();
                if (value != null && !Objects.equals(is, value)) {
                    break;
                }
                value = is;
                from = OpcUaTime.toInstant(series.time(i));
            }
        }
        return value == null ? Optional.empty() : Optional.of(new Held(from.isBefore(first) ? first : from, to));
    }
}
