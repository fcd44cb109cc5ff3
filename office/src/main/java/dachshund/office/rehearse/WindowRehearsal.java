package dachshund.office.rehearse;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.rehearse.Rehearsal;
import dachshund.core.row.Made;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.window.Span;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.archive.Histories;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.springframework.stereotype.Component;

/** What a design, drafted or live, would have written in a window: its Whens and its Row over the archive. Nothing is written. */
@Component
public class WindowRehearsal {

    /** The window is counted in so many equal parts. */
    public static final int PARTS = 60;

    private static final int SHOWN = 10;
    private static final int REASONS = 10;

    private final Engine engine;
    private final Histories histories;

    /**
     * @param rows     that would have been written, of those that are set aside none
     * @param refused  that would have been set aside
     * @param reasons  why, of the first ones
     * @param unknown  firings of which no row can be made, since the archive knows nothing of a tag then, by tag
     * @param firings  how often a When fires in each of {@value #PARTS} equal parts
     * @param first    the first rows, oldest first
     * @param last     the last ones, those of the first left out
     */
    public record Result(
            long rows,
            long refused,
            List<String> reasons,
            Map<String, Long> unknown,
            long[] firings,
            List<Made> first,
            List<Made> last) {

        public long all() {
            long sum = 0;
            for (long each : firings) {
                sum += each;
            }
            return sum;
        }

        public long most() {
            long most = 0;
            for (long each : firings) {
                most = Math.max(most, each);
            }
            return most;
        }
    }

    WindowRehearsal(Engine engine, Histories histories) {
        this.engine = engine;
        this.histories = histories;
    }

    /** @throws IllegalArgumentException with a sentence, where it cannot be rehearsed */
    public Result run(RecorderDefinition design, Plant plant, Span span, Progress progress) throws Exception {
        if (design.whens().isEmpty() || design.layout().columns().isEmpty()) {
            throw new IllegalArgumentException("It has no When or no column yet, so there is nothing to rehearse.");
        }
        if (!span.from().isBefore(engine.clock().now())) {
            throw new IllegalArgumentException("The window lies in the future: only what has been is rehearsed.");
        }
        progress.step("Rehearsing", Replay.parts(span), true);
        Counting counting = new Counting(plant, span);
        long[] parts = {0};
        new Replay(histories, design, plant)
                .run(engine.recorders().identity(design.id()), span, counting, (from, to) -> progress.done(++parts[0]));
        return counting.result();
    }

    private static final class Counting implements Rehearsal.Taker {

        private final Plant plant;
        private final Instant from;
        private final long nanosPerPart;
        private final long[] firings = new long[PARTS];
        private final Map<String, Long> unknown = new LinkedHashMap<>();
        private final List<String> reasons = new ArrayList<>();
        private final List<Made> first = new ArrayList<>();
        private final Deque<Made> last = new ArrayDeque<>();
        private long rows;
        private long refused;

        Counting(Plant plant, Span span) {
            this.plant = plant;
            this.from = span.from();
            // Of a window of a hundred years and more microseconds would do as well.
            this.nanosPerPart = Math.max(
                    1, Duration.between(span.from(), span.to()).dividedBy(PARTS).toNanos());
        }

        @Override
        public void fires(Instant at) {
            firings[
                    (int) Math.min(
                            PARTS - 1L, Math.max(0, Duration.between(from, at).toNanos() / nanosPerPart))]++;
        }

        @Override
        public void row(Made made) {
            if (made instanceof Made.Refused row) {
                refused++;
                if (reasons.size() < REASONS && !reasons.contains(row.reason())) {
                    reasons.add(row.reason());
                }
            } else if (made instanceof Made.Whole) {
                rows++;
            }
            if (first.size() < SHOWN) {
                first.add(made);
            } else {
                last.addLast(made);
                if (last.size() > SHOWN) {
                    last.removeFirst();
                }
            }
        }

        @Override
        public void unknown(Instant at, TagRef tag) {
            unknown.merge(plant.tag(tag).map(TagInfo::fullName).orElse(tag.address()), 1L, Long::sum);
        }

        Result result() {
            return new Result(rows, refused, reasons, unknown, firings, first, List.copyOf(last));
        }
    }
}
