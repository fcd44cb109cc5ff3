package dachshund.engine.clock;

import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.LocalStore.LocalStoreFailed;
import java.time.Duration;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.Optional;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Whether the machine's clock may be believed when it says that something is old enough to be removed. One that moved by more than
 * a day while less passed (an empty battery, a wrong time server) is not for three days: for a clock that is years ahead all
 * there is is old. Neither is it after nothing ran here for more than a day, since nobody can tell that from the other. What is to be
 * removed waits that long; nothing else does. Several may look, each by itself: what they know is on disk. Safe for many threads.
 */
public final class ClockDoubt {

    /** By less nobody's rule for keeping things is off. */
    public static final Duration MOVED = Duration.ofDays(1);

    /** In which somebody sees it and sets the clock. */
    public static final Duration LASTS = Duration.ofDays(3);

    private static final Logger LOG = LoggerFactory.getLogger(ClockDoubt.class);

    private static final String SEEN = "clock seen";
    private static final String DOUBTED = "clock doubted";
    private static final long NOTED_EACH_NANOS = 60_000_000_000L;

    private final PlantClock clock;
    private final LocalStore local;
    private Instant last;
    private long lastNanos;
    private long notedNanos;

    /**
     * A clock that is not believed.
     *
     * @param since when it had moved, by itself
     * @param until when it is believed again, by itself
     * @param by    how far it had moved; below zero where it was set back, zero where nobody can tell
     */
    public record Doubt(Instant since, Instant until, Duration by) {

        /** What is the matter and what that means, in sentences. */
        public String words() {
            return (by.isZero()
                            ? "When the clock of this machine was seen last cannot be read from the local disk"
                            : "The clock of this machine moved by " + PeriodText.roughly(by.abs())
                                    + (by.isNegative() ? " back" : " ahead, or nothing ran here for so long"))
                    + ". Nothing is removed for its age until " + until
                    + ": a clock that is wrong would take what is not old. If it is wrong, set it.";
        }

        private String text() {
            return since + "|" + until + "|" + by;
        }

        private static Optional<Doubt> read(String text) {
            String[] parts = text.split("\\|", -1);
            try {
                return parts.length == 3
                        ? Optional.of(
                                new Doubt(Instant.parse(parts[0]), Instant.parse(parts[1]), Duration.parse(parts[2])))
                        : Optional.empty();
            } catch (DateTimeParseException strange) {
                LOG.warn("That the clock was doubted cannot be read: {}", text);
                return Optional.empty();
            }
        }
    }

    public ClockDoubt(PlantClock clock, LocalStore local) {
        this.clock = clock;
        this.local = local;
    }

    /** Looks at the clock, and says why it is not believed; empty where it is. */
    public synchronized Optional<Doubt> doubt() {
        Instant now = clock.now();
        long nanos = clock.nanos();
        try {
            Optional<Instant> expected = last == null ? seen() : Optional.of(last.plusNanos(nanos - lastNanos));
            Duration off = expected.map(then -> Duration.between(then, now)).orElse(Duration.ZERO);
            boolean moved = off.abs().compareTo(MOVED) > 0;
            if (moved) {
                Doubt doubt = new Doubt(now, now.plus(LASTS), off);
                LOG.warn(doubt.words());
                local.remember(DOUBTED, doubt.text());
            }
            if (last == null || moved || nanos - notedNanos >= NOTED_EACH_NANOS) {
                local.remember(SEEN, now.toString());
                notedNanos = nanos;
            }
            last = now;
            lastNanos = nanos;
            return local.remembered(DOUBTED)
                    .flatMap(Doubt::read)
                    .filter(doubt -> now.isBefore(doubt.until())
                            && !now.isBefore(doubt.since().minus(MOVED)));
        } catch (LocalStoreFailed disk) {
            // What cannot be known is doubted: nothing is lost by what stays a while longer.
            return Optional.of(new Doubt(now, now.plus(MOVED), Duration.ZERO));
        }
    }

    private Optional<Instant> seen() {
        try {
            return local.remembered(SEEN).map(Instant::parse);
        } catch (DateTimeParseException strange) {
            LOG.warn("When the clock was seen last cannot be read.", strange);
            return Optional.empty();
        }
    }
}
