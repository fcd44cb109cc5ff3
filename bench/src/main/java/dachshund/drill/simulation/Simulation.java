package dachshund.drill.simulation;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreProblem;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.Account;
import dachshund.engine.local.SetAside;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.ToLongFunction;
import java.util.stream.Collectors;

/**
 * Some lives of one machine under the faults of one seed: a disk that forgets, tears, flips, fails and fills, destinations that
 * misbehave, a clock that is set, changeovers, and an end at any moment. Afterwards everything is well again, what waits is
 * written, and what is in the tables is compared with what the plant said, not with what the machine says of itself alone.
 */
public final class Simulation {

    private static final int MOST_LIVES = 5;
    private static final int MOMENTS = 220;
    /** So often a person tries at the end what did not go. */
    private static final int TRIES = 5;

    /** So often everything has its turn after all faults are over; what has not landed then never will. */
    private static final int PATIENCE = 60_000;

    private final World world;
    private final Path folder;
    private final ForgetfulDisk disk;
    private final Map<String, Tables> destinations = new TreeMap<>();
    private final SegmentJournal.Limits limits;
    private final Batching batching;
    /** What each tag counted to. */
    private final Map<String, Integer> counted = new HashMap<>();
    /** Of each record and value: what may be said of it afterwards. */
    private final Map<Records, Map<Integer, Said>> said = new TreeMap<>();

    private final Map<Records, Boolean> wider = new HashMap<>();
    private final List<String> wrong = new ArrayList<>();
    /** Lanes that somebody sent rows again of. */
    private final Set<String> sentAgain = new HashSet<>();
    /** Lanes whose rows cannot be looked up, and where something ended or failed while rows were sent again. */
    private final Set<String> sentInDoubt = new HashSet<>();

    private boolean countsAged;
    /** Whether something that should be kept was lost or replaced by an older copy: the account may then say less. */
    private boolean replaced;
    /** Puts back what was on the machine after some life. */
    private Optional<Runnable> olderJournal = Optional.empty();

    private Optional<Runnable> olderLocal = Optional.empty();
    private int flips;
    private boolean fills;

    /** A change of the plant that a row was due for. */
    private static final class Said {

        /** There may be no row: nobody listened, or it was the first look after a start. */
        private boolean optional;
        /** Position behind it, by destination, in the life it was said in. */
        private final Map<String, Long> behind = new HashMap<>();
        /** Destinations where the bytes of it had not been forced when the power went. */
        private final List<String> unforced = new ArrayList<>();
        /** Destinations whose journal took no row then. */
        private final List<String> refused = new ArrayList<>();
        /** Destinations where somebody had what waited discarded since. */
        private final Set<String> discarded = new HashSet<>();
        /** Somebody sent it again, or may have. */
        private boolean sentAgain;
    }

    /**
     * What came of it.
     *
     * @param rows  in all tables
     * @param lives how often the machine was started
     * @param lost  rows of changes that a loss of power took
     * @param wrong what is not as promised, in sentences
     */
    public record Outcome(long rows, int lives, long lost, List<String> wrong, String told) {}

    private Simulation(long seed, Path folder, boolean tells) {
        this.world = new World(seed, tells);
        this.folder = folder;
        this.disk = new ForgetfulDisk(world);
        boolean files = world.chance(0.4);
        destinations.put("a", new Tables(world, false));
        destinations.put("b", new Tables(world, files));
        fills = world.chance(0.2);
        limits = new SegmentJournal.Limits(fills ? 20_000 : 10_000_000, 1000, 500L * world.some(20), 100);
        batching = world.chance(0.3)
                ? new Batching(world.some(20), Duration.ofSeconds(world.some(5)))
                : new Batching(world.some(50), Duration.ZERO);
        for (Records each : Records.values()) {
            said.put(each, new TreeMap<>());
        }
    }

    /**
     * @param folder empty, for the local store
     * @param tells  whether it keeps an account of what happened, to be read
     */
    public static Outcome run(long seed, Path folder, boolean tells) {
        return new Simulation(seed, folder, tells).run();
    }

    private Outcome run() {
        int lives = world.some(MOST_LIVES);
        for (int i = 0; i < lives && wrong.isEmpty(); i++) {
            live();
            betweenLives();
        }
        long lost = wrong.isEmpty() ? endWell() : 0;
        long rows = destinations.values().stream()
                .flatMap(each -> each.tables().stream().map(each::rows))
                .mapToLong(List::size)
                .sum();
        return new Outcome(rows, lives + 1, lost, wrong, world.told());
    }

    private List<RecorderDefinition> designs() {
        return List.of(Records.values()).stream()
                .map(each -> each.design(wider.getOrDefault(each, false)))
                .toList();
    }

    /** Now and then somebody takes a copy, loses what is kept beside the rows, or puts an older copy back. */
    private void betweenLives() {
        Path local = folder.resolve("local.db");
        switch (world.random.nextInt(24)) {
            case 0, 1, 2, 3 -> {
                world.tell("a copy is taken");
                olderJournal = Optional.of(disk.copy());
                byte[] bytes = contents(local);
                olderLocal = Optional.of(() -> replace(local, bytes));
            }
            case 4 -> {
                world.tell("the local store is lost");
                excuse(false);
                replace(local, new byte[0]);
            }
            case 5 -> {
                world.tell("the journal is lost");
                excuse(true);
                disk.lose();
                olderJournal = Optional.empty(); // one that was lost and counted as such does not come back as well
            }
            case 6, 7 -> {
                if (olderJournal.isPresent()) {
                    boolean both = world.chance(0.5);
                    world.tell("an older copy comes back, " + (both ? "all of it" : "of the journal"));
                    excuse(true);
                    olderJournal.get().run();
                    if (both) {
                        olderLocal.get().run();
                    }
                }
            }
            case 8 -> {
                if (olderLocal.isPresent()) {
                    world.tell("an older copy of the local store comes back");
                    excuse(false);
                    olderLocal.get().run();
                }
            }
            default -> {
                // nobody touches anything
            }
        }
    }

    /**
     * What may be nowhere from now on.
     *
     * @param journal all that was said, else only what may have been set aside
     */
    private void excuse(boolean journal) {
        replaced = true;
        // Lives of one installation are told apart by their seconds: whoever puts a copy back takes that long, and his
        // clock goes.
        world.pass(Duration.ofHours(2));
        said.values().forEach(all -> all.forEach((value, one) -> one.optional |= journal || Tables.refused(value)));
    }

    private static byte[] contents(Path file) {
        try {
            return Files.exists(file) ? Files.readAllBytes(file) : new byte[0];
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** @param bytes none where the file is to be gone */
    private static void replace(Path file, byte[] bytes) {
        try {
            for (String part : List.of("", "-wal", "-shm")) {
                Files.deleteIfExists(file.resolveSibling(file.getFileName() + part));
            }
            if (bytes.length > 0) {
                Files.write(file, bytes);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private void live() {
        world.tell("a start");
        double ending = world.chance(0.7) ? 0.02 / world.some(20) : 0;
        disk.failing =
                ""; // a journal that cannot be opened is refused with a sentence; here it would only be a short life
        world.begin(() -> {});
        world.mayEnd(ending);
        Machine machine = null;
        Map<String, byte[]> older = Map.of();
        Map<String, Integer> heard = new HashMap<>();
        try {
            machine = new Machine(world, disk, folder, destinations, limits, batching);
            machine.changeover(designs());
            int moments = world.some(MOMENTS);
            for (int i = 0; i < moments && !world.ended(); i++) {
                moment(machine, heard);
                if (world.chance(0.02)) {
                    older = machine.countsNow();
                }
            }
        } catch (World.Ended ended) {
            world.tell("ended at a moment of its own");
        }
        end(machine, older);
    }

    private void moment(Machine machine, Map<String, Integer> heard) {
        double what = world.random.nextDouble();
        if (what < 0.25) {
            change(machine, heard);
        } else if (what < 0.75) {
            machine.step();
        } else if (what < 0.90) {
            world.pass(Duration.ofMillis(world.some(1200)));
        } else {
            fault(machine);
        }
    }

    private void change(Machine machine, Map<String, Integer> heard) {
        List<Records> all = List.of(Records.values()).stream()
                .filter(each -> !each.tag.isEmpty())
                .toList();
        Records record = all.get(world.random.nextInt(all.size()));
        int times = world.chance(0.1) ? world.some(30) : 1;
        for (int i = 0; i < times; i++) {
            int value = counted.merge(record.tag, 1, Integer::sum);
            Said one = new Said();
            one.optional = heard.merge(record.tag, 1, Integer::sum) == 1;
            said.get(record).put(value, one);
            Map<String, Long> before = refused(machine, record);
            Map<String, Long> ends = record.destinations.stream().collect(Collectors.toMap(each -> each, machine::end));
            machine.offer(record.tag, value);
            one.optional |= world.ended();
            world.tell(record + " says " + value + " " + machine.end(record.destinations.get(0)));
            refused(machine, record).forEach((destination, count) -> {
                if (count > before.get(destination)) {
                    one.refused.add(destination);
                } else if (machine.end(destination) > ends.get(destination)) {
                    one.behind.put(destination, machine.end(destination));
                }
            });
        }
    }

    private static Map<String, Long> refused(Machine machine, Records record) {
        return record.destinations.stream()
                .collect(Collectors.toMap(
                        each -> each, each -> machine.account(each, record.id).refused()));
    }

    private void fault(Machine machine) {
        Tables some = destinations.get(world.chance(0.5) ? "a" : "b");
        List<String> tables = some.tables();
        String table = tables.isEmpty() ? "" : tables.get(world.random.nextInt(tables.size()));
        switch (world.random.nextInt(14)) {
            case 0 -> some.away = world.chance(0.6);
            case 1 -> some.trouble = world.chance(0.5) ? 0.3 * world.random.nextDouble() : 0;
            case 2 -> some.inUse = world.chance(0.5) ? table : "";
            case 3 -> some.missing = world.chance(0.4) ? table : "";
            case 4 -> disk.failing = world.chance(0.4) ? "Input/output error" : "";
            case 5 -> disk.room = world.chance(0.3) ? 10 : 1L << 40;
            case 6 -> {
                if (world.chance(0.3) && !replaced && olderLocal.isEmpty()) {
                    world.set(Duration.ofSeconds(world.random.nextInt(7200) - 3600));
                }
            }
            case 7 -> {
                Records record = Records.values()[world.random.nextInt(Records.values().length)];
                wider.put(record, !wider.getOrDefault(record, false));
                world.tell("a changeover of " + record);
                machine.changeover(designs());
            }
            case 8 -> {
                if (world.chance(0.1) && disk.flip()) {
                    flips++;
                }
            }
            case 9, 10, 11 -> person(machine);
            default -> world.pass(Duration.ofSeconds(world.some(20)));
        }
    }

    /** Somebody discards what a lane holds, gives it to another design, or mends and sends what is set aside. */
    private void person(Machine machine) {
        Records record = Records.values()[world.random.nextInt(Records.values().length)];
        String destination = record.destinations.get(world.random.nextInt(record.destinations.size()));
        String lane = lane(record, destination);
        switch (world.random.nextInt(4)) {
            case 0 -> {
                if (world.chance(0.3)) {
                    world.tell(lane + ": what waits is discarded");
                    said.get(record).values().forEach(one -> one.discarded.add(destination));
                    machine.discard(destination, record.id);
                }
            }
            case 1 -> {
                world.tell(lane + ": what waits is given to another design");
                machine.give(destination, record.design(world.chance(0.5)));
            }
            default -> sendAgain(machine, record, destination);
        }
    }

    private static String lane(Records record, String destination) {
        return record + " into " + destination;
    }

    private void sendAgain(Machine machine, Records record, String destination) {
        List<SetAside> rows = machine.aside(destination, record.id);
        if (rows.isEmpty()) {
            return;
        }
        String lane = lane(record, destination);
        world.tell(lane + ": " + rows.size() + " rows are sent again");
        rows.forEach(
                row -> Optional.ofNullable(said.get(record).get(value(row))).ifPresent(one -> one.sentAgain = true));
        sentAgain.add(lane);
        boolean done = false;
        try {
            world.tell(lane + ": " + machine.sendAgain(record.design(wider.getOrDefault(record, false)), rows));
            done = true;
        } catch (StoreProblem | IllegalArgumentException said) {
            world.tell(lane + ": " + said.getMessage());
        } finally {
            if (!done && !known(record, destination)) {
                sentInDoubt.add(lane);
            }
        }
    }

    private void end(Machine machine, Map<String, byte[]> older) {
        boolean byItself = world.ended();
        if (!byItself && world.chance(0.3)) {
            world.tell("a stop");
            try {
                machine.stop();
            } catch (World.Ended ended) {
                world.tell("ended while it stopped");
            }
            if (!world.ended()) {
                forget(machine, !disk.failing.isEmpty());
                return;
            }
        }
        if (!world.ended()) {
            world.end();
        }
        boolean power = world.chance(0.5);
        world.tell(power ? "the power goes" : "killed");
        if (machine != null) {
            boolean ages = power && !older.isEmpty() && world.chance(0.5);
            countsAged |= ages;
            machine.leave(ages ? older : Map.of());
        }
        if (power) {
            disk.losePower();
        }
        forget(machine, true);
    }

    /** Rows of this life whose bytes were not forced when it was cut off may be gone. */
    private void forget(Machine machine, boolean cutOff) {
        if (machine != null) {
            destinations.keySet().forEach(each -> world.tell(each + " is forced up to " + machine.durable(each)));
        }
        said.values().forEach(all -> all.values().forEach(one -> {
            one.behind.forEach((destination, position) -> {
                if (cutOff && position > machine.durable(destination)) {
                    one.unforced.add(destination);
                }
            });
            one.behind.clear();
        }));
    }

    private void well() {
        disk.failing = "";
        disk.room = 1L << 40;
        destinations.values().forEach(each -> {
            each.away = false;
            each.trouble = 0;
            each.inUse = "";
            each.missing = "";
        });
    }

    /** The last life, without faults, to its end; how many rows of changes were lost. */
    private long endWell() {
        world.tell("everything is well again");
        well();
        world.mayEnd(0);
        world.begin(() -> {});
        Machine machine = new Machine(world, disk, folder, destinations, limits, batching);
        machine.changeover(designs());
        drain(machine);
        for (int i = 0; i < TRIES; i++) { // a full journal refuses until what landed is known on disk
            for (Records record : Records.values()) {
                for (String destination : record.destinations) {
                    if (known(record, destination)) {
                        sendAgain(machine, record, destination);
                    }
                }
            }
            drain(machine);
            rest(machine);
        }
        machine.changeover(List.of()); // a tick that is due already is served
        drain(machine);
        long lost = judge(machine);
        machine.stop();
        return lost;
    }

    /** Rows of it can be looked up where they are. */
    private boolean known(Records record, String destination) {
        return record.found() && destinations.get(destination).tellsOfAll();
    }

    /** Everybody has a turn or two though nothing waits. */
    private void rest(Machine machine) {
        for (int i = 0; i < 100; i++) {
            machine.step();
            world.pass(Duration.ofMillis(20));
        }
    }

    private void drain(Machine machine) {
        for (int i = 0; machine.waiting() > 0 && i < PATIENCE; i++) {
            machine.step();
            world.pass(Duration.ofMillis(20));
        }
    }

    private long judge(Machine machine) {
        long lost = 0;
        for (Records record : Records.values()) {
            boolean all = true;
            for (String destination : record.destinations) {
                all &= judge(machine, record, destination);
            }
            if (all && !record.tag.isEmpty()) {
                List<List<String>> each = record.either()
                        ? List.of(record.destinations)
                        : record.destinations.stream().map(List::of).toList();
                for (List<String> destinations : each) {
                    lost += compare(machine, record, destinations);
                }
            }
        }
        if (!wrong.isEmpty()) {
            wrong.add(machine.remarks());
        }
        return lost;
    }

    private List<Row> rows(Records record, String destination) {
        return destinations.get(destination).beginning(record.tables()).stream()
                .flatMap(List::stream)
                .toList();
    }

    /** Whether its rows can be compared with what the plant said. */
    private boolean judge(Machine machine, Records record, String destination) {
        String lane = lane(record, destination);
        List<Row> rows = rows(record, destination);
        Account account = machine.account(destination, record.id);
        int aside = machine.aside(destination, record.id).size();
        boolean designGone =
                flips > 0 && machine.status(destination, record.id).sentence().startsWith("The design");
        if (designGone) {
            return false; // a flipped bit took the design: its rows stand, and say so
        }
        if (account.waiting() > 0) {
            wrong.add(lane + ": " + account.waiting() + " rows never landed.");
            return false;
        }
        Map<RowId, Long> ids =
                rows.stream().map(Row::id).collect(Collectors.groupingBy(id -> id, Collectors.counting()));
        ids.forEach((id, times) -> {
            if (times > 1 && mayNotDouble(destination)) {
                wrong.add(lane + ": " + id + " is there " + times + " times.");
            }
        });
        destinations.get(destination).beginning(record.tables()).forEach(each -> inOrder(lane, each));
        if (account.difference() != 0) {
            wrong.add(lane + ": the account does not add up: " + account);
        }
        // Of a row that had landed and was altered on the local disk before that was known there, nobody can tell.
        if (!replaced && Math.abs(account.landed() + account.before() - rows.size()) > flips) {
            wrong.add(lane + ": " + rows.size() + " rows are there: " + account);
        }
        // What was sent again is aside no more.
        if (!replaced
                && (aside > account.aside() + flips || aside < account.aside() - flips && !sentAgain.contains(lane))) {
            wrong.add(lane + ": " + aside + " rows are set aside: " + account);
        }
        if (!replaced && sentAgain.contains(lane) && known(record, destination) && aside > flips) {
            wrong.add(lane + ": " + aside + " rows were mended and sent again, and are still aside.");
        }
        return true;
    }

    private void inOrder(String lane, List<Row> rows) {
        for (int i = 1; i < rows.size() && !replaced; i++) {
            if (rows.get(i - 1).id().compareTo(rows.get(i).id()) > 0) {
                wrong.add(lane + ": " + rows.get(i).id() + " stands behind "
                        + rows.get(i - 1).id() + ".");
            }
        }
    }

    /**
     * Whose rows they are says the head of their journal, or the local store: with both of them gone nobody can tell. And a file
     * tells what stands at its end only: rows of an older copy that others came after since cannot be found there.
     */
    private boolean mayNotDouble(String destination) {
        return !replaced || flips == 0 && destinations.get(destination).tellsOfAll();
    }

    /** What the plant said with what there is, where a row is to be in one of some destinations. */
    private long compare(Machine machine, Records record, List<String> in) {
        String lane = record + " into " + String.join(" or ", in);
        Map<Integer, Integer> found = new TreeMap<>();
        Set<String> ids = new HashSet<>();
        List<Account> accounts = new ArrayList<>();
        for (String destination : in) {
            accounts.add(machine.account(destination, record.id));
            rows(record, destination).forEach(row -> {
                found.merge(value(row), 1, Integer::sum);
                ids.add(row.id().toString());
            });
        }
        for (String destination : in) {
            machine.aside(destination, record.id).stream()
                    .filter(row ->
                            !ids.contains(row.sent())) // else it is known to be there, when somebody sends it again
                    .forEach(row -> found.merge(value(row), 1, Integer::sum));
        }
        boolean mayNotDouble = in.stream().allMatch(this::mayNotDouble);
        boolean inDoubt = in.stream().anyMatch(each -> sentInDoubt.contains(lane(record, each)));
        long lost = 0;
        long refused = 0;
        long discarded = 0;
        List<Integer> missing = new ArrayList<>();
        for (Map.Entry<Integer, Said> each : said.get(record).entrySet()) {
            int times = found.getOrDefault(each.getKey(), 0);
            Said one = each.getValue();
            boolean mayDouble = !mayNotDouble || one.sentAgain && (inDoubt || replaced);
            boolean gone = times == 0 && !one.optional;
            if (times > 1 && !mayDouble) {
                wrong.add(lane + ": the value " + each.getKey() + " is there " + times + " times.");
            } else if (gone && one.discarded.stream().anyMatch(in::contains)) {
                discarded++;
            } else if (gone && one.refused.stream().anyMatch(in::contains)) {
                refused++;
            } else if (gone && one.unforced.stream().anyMatch(in::contains)) {
                lost++;
            } else if (gone) {
                missing.add(each.getKey());
            }
        }
        boolean counts = !countsAged && !replaced;
        if (counts && refused > sum(accounts, Account::refused)) {
            wrong.add(lane + ": " + refused + " values were refused, and not all of them are counted: " + accounts);
        }
        if (missing.size() > flips) {
            wrong.add(lane + ": said, forced and nowhere: " + missing + ": " + accounts + ", " + flips
                    + " bits were flipped.");
        }
        long counted = sum(accounts, Account::lost) + sum(accounts, Account::damaged);
        if (counts && flips == 0 && lost > counted) {
            wrong.add(lane + ": " + lost + " values are lost, and not all of them are counted: " + accounts);
        }
        if (counts && discarded > sum(accounts, Account::discarded) + sum(accounts, Account::refused) + counted) {
            wrong.add(lane + ": " + discarded + " values were discarded or lost, and not all of them are counted: "
                    + accounts);
        }
        return lost;
    }

    private static long sum(List<Account> accounts, ToLongFunction<Account> of) {
        return accounts.stream().mapToLong(of).sum();
    }

    private static int value(Row row) {
        for (Object cell : row.cells()) {
            if (cell instanceof Double value) {
                return value.intValue();
            }
        }
        return -1;
    }

    private static int value(SetAside row) {
        int at = row.columns().indexOf(Records.VALUE);
        String text = at < 0 ? null : row.values().get(at);
        return text == null ? -1 : (int) Double.parseDouble(text);
    }
}
