package dachshund.engine.transaction;

import dachshund.core.destination.StoreProblem;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.engine.local.LocalStore;
import dachshund.engine.night.NightWork;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Deque;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;

/**
 * Removes marks that are older than their transaction keeps them: each night, a few hundred at a time. The mark of a run that has
 * something left to do stays, however old it is. Its steps are one thread's; {@link #removed} may be called from any.
 */
public final class OldMarks {

    /** Marks that go in one transaction. */
    static final int AT_ONCE = 500;
    /** Marks that are read before the first of them go. */
    static final int MOST_READ = 20_000;

    private static final String REMEMBERED = "old-marks ";

    /** The transactions at work, and what they reach. */
    interface Around {

        Collection<TransactionDefinition> all();

        /** @throws RuntimeException with a sentence, where it cannot be reached */
        Transacting database(String id);

        String name(String database);

        /** Said on the page of a transaction. */
        void say(String transaction, String sentence);
    }

    /**
     * What became of the marks of a transaction in one database.
     *
     * @param at      when it was looked at last
     * @param marks   how many were removed then
     * @param trouble why not all that are old enough, in a sentence; empty where all are
     */
    public record Removed(Instant at, long marks, String trouble) {

        /** Whether somebody is needed: it does not go on by itself in the next night. */
        public boolean needsSomebody() {
            return !NightWork.goesOn(trouble);
        }

        /** In a sentence without its time. */
        public String words() {
            return count(marks) + (marks == 1 ? " was" : " were") + " removed"
                    + (trouble.isEmpty() ? "." : ", not all that are old enough. " + trouble);
        }

        private String text() {
            return at + "|" + marks + "|" + trouble;
        }

        private static Removed read(String text) {
            String[] parts = text.split("\\|", 3);
            return new Removed(Instant.parse(parts[0]), Long.parseLong(parts[1]), parts[2]);
        }
    }

    private static String count(long marks) {
        return String.format(Locale.ROOT, "%,d", marks) + (marks == 1 ? " old mark" : " old marks");
    }

    private final Around around;
    private final LocalStore local;
    private final PlantClock clock;
    private final NightWork night;
    private final Map<String, Optional<Removed>> removed = new ConcurrentHashMap<>();

    OldMarks(Around around, LocalStore local, PlantClock clock, ZoneId zone) {
        this.around = around;
        this.local = local;
        this.clock = clock;
        this.night = new NightWork(this::tonight, clock, zone, local);
    }

    /** One step. @return how long to wait before the next, in nanoseconds */
    public long step() {
        return night.step();
    }

    /** What became of the old marks of a transaction when they were looked at last, in each of its databases. */
    public List<Removed> removed(TransactionDefinition design) {
        return databases(design)
                .map(database -> key(design, database))
                .flatMap(key ->
                        removed
                                .computeIfAbsent(key, each -> local.remembered(REMEMBERED + each)
                                        .map(Removed::read))
                                .stream())
                .toList();
    }

    private static String key(TransactionDefinition design, String database) {
        return design.id() + " " + database;
    }

    private static Stream<String> databases(TransactionDefinition design) {
        return Stream.concat(Stream.of(design.database()), design.other().stream());
    }

    private Optional<List<NightWork.Piece>> tonight() {
        if (around.all().isEmpty()) {
            return Optional.empty(); // none is at work yet
        }
        Instant now = clock.now();
        List<NightWork.Piece> pieces = new ArrayList<>();
        around.all().stream().filter(OldMarks::clears).forEach(design -> databases(design)
                .forEach(database -> pieces.add(new Marks(design, database, now))));
        return Optional.of(pieces);
    }

    private static boolean clears(TransactionDefinition design) {
        return design.mark() && design.policy().keepMarks() > 0;
    }

    /** The old marks of one transaction in one database, tonight. */
    private final class Marks implements NightWork.Piece {

        private final TransactionDefinition design;
        private final String database;
        private final Instant begun;
        private final Deque<String> found = new ArrayDeque<>();
        private boolean all;
        private long gone;

        private Marks(TransactionDefinition design, String database, Instant begun) {
            this.design = design;
            this.database = database;
            this.begun = begun;
        }

        @Override
        public String words() {
            return "Old marks of " + design.name();
        }

        @Override
        public boolean stands() {
            return around.all().stream()
                    .filter(each -> each.id().equals(design.id()) && clears(each))
                    .anyMatch(
                            each -> each.policy().keepMarks() == design.policy().keepMarks()
                                    && databases(each).anyMatch(database::equals));
        }

        @Override
        public void step() throws StoreProblem {
            Transacting in = reached();
            if (found.isEmpty()) {
                found.addAll(in.doneBefore(design.id(), design.policy().keepMarks(), MOST_READ));
                all = found.size() < MOST_READ;
                // Not a request: it says when the last one was.
                found.remove(Past.LAST_RUN);
            }
            List<String> some = found.stream().limit(AT_ONCE).toList();
            if (some.isEmpty()) {
                return;
            }
            int now = in.forget(design.id(), some);
            if (now == 0) {
                // They were there a moment ago, and would be found again and again.
                throw new StoreProblem(
                        StoreProblem.Kind.TABLE,
                        -1,
                        "None of " + some.size() + " marks that were found could be removed.",
                        null);
            }
            gone += now;
            some.forEach(each -> found.poll());
        }

        private Transacting reached() throws StoreProblem {
            try {
                return around.database(database);
            } catch (RuntimeException cannot) {
                throw new StoreProblem(StoreProblem.Kind.TABLE, -1, cannot.getMessage(), cannot);
            }
        }

        @Override
        public boolean isDone() {
            return all && found.isEmpty();
        }

        @Override
        public void again() {
            found.clear();
            all = false;
        }

        @Override
        public void end(String trouble) {
            Removed now = new Removed(begun, gone, trouble);
            removed.put(key(design, database), Optional.of(now));
            local.remember(REMEMBERED + key(design, database), now.text());
            if (gone > 0) {
                around.say(
                        design.id(),
                        count(gone) + (gone == 1 ? " was" : " were") + " removed from " + around.name(database) + ".");
            }
            if (now.needsSomebody()) {
                around.say(design.id(), "Old marks stay in " + around.name(database) + ". " + trouble);
            }
        }
    }
}
