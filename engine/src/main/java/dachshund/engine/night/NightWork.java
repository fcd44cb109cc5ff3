package dachshund.engine.night;

import dachshund.core.destination.StoreProblem;
import dachshund.core.time.PlantClock;
import dachshund.engine.clock.ClockDoubt;
import dachshund.engine.local.LocalStore;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Optional;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Clears things away each night, between half past two and five in plant time: pieces of work one after the other, in short steps
 * with pauses that leave their database to others; nothing while the clock is doubted. What fails at one piece is said there and delays no other. Its steps are one
 * thread's.
 */
public final class NightWork {

    private static final Logger LOG = LoggerFactory.getLogger(NightWork.class);

    /** When clearing away begins and ends, in plant time; a night in which nothing runs is left out. */
    public static final LocalTime BEGIN = LocalTime.of(2, 30);

    public static final LocalTime END = LocalTime.of(5, 0);

    /** How often in a night what is away or in use is tried again. */
    public static final int TRIES = 20;

    private static final Duration LOOK = Duration.ofMinutes(1);
    private static final Duration SOON = Duration.ofSeconds(1);
    private static final Duration PAUSE = Duration.ofMillis(50);
    /** It rests so many times longer than a step took. */
    private static final int REST = 4;

    private static final String NIGHT_ENDED =
            "The night ended before all of them were removed; it goes on in the next.";
    private static final String OTHER_DESIGN = "The design is another one now; it is looked at in the next night.";

    /** A piece of work of one night. */
    public interface Piece {

        /** What it is about, for the log. */
        String words();

        /** Whether it is still to be done as it was at the beginning of the night. */
        boolean stands();

        /**
         * One short step.
         *
         * @throws StoreProblem with a sentence, where it cannot be done
         */
        void step() throws StoreProblem;

        boolean isDone();

        /** Whether the last step has done anything nobody knows: what is there is looked at anew. */
        void again();

        /**
         * No further step is done.
         *
         * @param trouble why not all is done, in a sentence; empty where all is
         */
        void end(String trouble);
    }

    private static final class Task {
        private final Piece piece;
        private int tries;
        private long notBefore;

        private Task(Piece piece, long now) {
            this.piece = piece;
            this.notBefore = now;
        }
    }

    private final Supplier<Optional<List<Piece>>> work;
    private final PlantClock clock;
    private final ZoneId zone;
    private final ClockDoubt doubts;
    private final Deque<Task> tonight = new ArrayDeque<>();
    private LocalDate night = LocalDate.MIN;

    /** @param work what there is to do in the night that begins; empty while that is not known yet */
    public NightWork(Supplier<Optional<List<Piece>>> work, PlantClock clock, ZoneId zone, LocalStore local) {
        this.work = work;
        this.doubts = new ClockDoubt(clock, local);
        this.clock = clock;
        this.zone = zone;
    }

    /** Whether it is the time of night in which things are cleared away. */
    public static boolean isNight(ZonedDateTime now) {
        return now.toLocalTime().isAfter(BEGIN) && now.toLocalTime().isBefore(END);
    }

    /** Whether what was not done is tried again in the next night, as it should be. */
    public static boolean goesOn(String trouble) {
        return trouble.isEmpty() || trouble.equals(NIGHT_ENDED) || trouble.equals(OTHER_DESIGN);
    }

    /** One step. @return how long to wait before the next, in nanoseconds */
    public long step() {
        ZonedDateTime now = clock.now().atZone(zone);
        if (!isNight(now) || doubts.doubt().isPresent()) {
            List<Task> left = List.copyOf(tonight);
            tonight.clear();
            left.forEach(task -> end(task, NIGHT_ENDED));
            return LOOK.toNanos();
        }
        if (!night.equals(now.toLocalDate())) {
            Optional<List<Piece>> pieces = work.get();
            if (pieces.isEmpty()) {
                return SOON.toNanos();
            }
            tonight.clear();
            pieces.get().forEach(piece -> tonight.add(new Task(piece, clock.nanos())));
            night = now.toLocalDate();
        }
        long from = clock.nanos();
        Task task = tonight.stream()
                .filter(each -> from - each.notBefore >= 0)
                .findFirst()
                .orElse(null);
        if (task == null) {
            return LOOK.toNanos();
        }
        if (!task.piece.stands()) {
            leave(task, OTHER_DESIGN);
        } else if (guarded(task) && task.piece.isDone()) {
            leave(task, "");
        }
        return Math.max(PAUSE.toNanos(), REST * (clock.nanos() - from));
    }

    /** @return whether the step was done */
    private boolean guarded(Task task) {
        try {
            task.piece.step();
            return true;
        } catch (StoreProblem problem) {
            boolean passing = problem.kind() == StoreProblem.Kind.AWAY
                    || problem.kind() == StoreProblem.Kind.BUSY
                    || problem.kind() == StoreProblem.Kind.CLASHED;
            if (passing && ++task.tries < TRIES) {
                task.piece.again();
                task.notBefore = clock.nanos() + LOOK.toNanos();
            } else {
                leave(task, problem.getMessage());
            }
            return false;
        } catch (RuntimeException | Error defect) {
            LOG.error("{} could not be cleared away.", task.piece.words(), defect);
            leave(task, Threads.words(defect));
            return false;
        }
    }

    private void leave(Task task, String trouble) {
        tonight.remove(task);
        end(task, trouble);
    }

    /** What cannot be told is reported, and keeps nothing back. */
    private static void end(Task task, String trouble) {
        try {
            task.piece.end(trouble);
        } catch (RuntimeException | Error defect) {
            LOG.error("What became of {} could not be told.", task.piece.words(), defect);
        }
    }
}
