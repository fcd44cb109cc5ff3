package dachshund.drill.simulation;

import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreProblem;
import dachshund.core.row.RowFacts;
import dachshund.core.row.RowId;
import dachshund.core.tag.TagChange;
import dachshund.core.tag.TagValue;
import dachshund.engine.answer.PlantSide;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.Account;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.SetAside;
import dachshund.engine.recorder.Recorders;
import dachshund.engine.recorder.Resending;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Worker;
import dachshund.engine.when.ActionPool;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The path of rows as the engine puts it together, for one life: from its start to its end by a stop, a kill or a loss of
 * power. Everything it has beside the simulated disk is in one folder: the local store, and what was offered.
 */
final class Machine {

    /** What is looked at of the counts that are mapped into memory: the first lanes. */
    private static final int COUNTS = 4096;

    private final World world;
    private final Path folder;
    private final Map<String, Tables> destinations;
    private final Turns turns;
    private final LocalStore local;
    private final CounterBook book = new CounterBook();
    private final Map<String, SegmentJournal> journals = new LinkedHashMap<>();
    private final Map<String, DestinationWriter> writers = new LinkedHashMap<>();
    private final List<Worker> workers = new ArrayList<>();
    private final List<Offered> offered = new ArrayList<>();
    private final Map<String, byte[]> counts = new LinkedHashMap<>();
    /** Where the disk is, at the instant of the end. */
    private final Map<String, Long> durable = new LinkedHashMap<>();

    final TagTable tags;
    final Recorders recorders;

    /** @throws World.Ended where it ended while it started */
    Machine(
            World world,
            ForgetfulDisk disk,
            Path folder,
            Map<String, Tables> destinations,
            SegmentJournal.Limits limits,
            Batching batching) {
        this.world = world;
        this.folder = folder;
        this.destinations = destinations;
        this.turns = new Turns(world);
        this.local = new LocalStore(folder.resolve("local.db"));
        world.begin(this::ended);
        tags = new TagTable(world);
        turns.atOnce = destinations.values().stream().anyMatch(each -> !each.tellsOfAll());
        destinations.forEach((name, store) -> {
            Map.Entry<String, Long> known = local.journal(name);
            SegmentJournal journal = new SegmentJournal(
                    Path.of("/journal", name),
                    disk,
                    turns,
                    limits,
                    local.installation(),
                    new SegmentJournal.Known(known.getKey(), known.getValue()),
                    () -> {});
            journals.put(name, journal);
            Offered counted = new Offered(counts(name));
            offered.add(counted);
            DestinationWriter writer =
                    new DestinationWriter(name, name, journal, counted, store, batching, local, book, world);
            writers.put(name, writer);
            workers.add(turns.start("writer-" + name, writer::step));
        });
        recorders = new Recorders(
                new RowId(local.installation(), "00000000", local.mintEpoch(world.now()), 0, 0),
                tags,
                plant(),
                id -> Optional.ofNullable(writers.get(id)),
                world,
                book,
                local,
                ActionPool.onCaller(),
                turns,
                PlantSide.NONE);
    }

    private Path counts(String destination) {
        return folder.resolve("offered-" + destination);
    }

    private static Plant plant() {
        return new Plant("Quillmoor", ZoneOffset.UTC, List.of());
    }

    void changeover(List<RecorderDefinition> designs) {
        recorders.changeover(designs, plant());
    }

    /** The plant says so. */
    void offer(String tag, double value) {
        tags.offer(Records.SOURCE, List.of(new TagChange(tag, TagValue.good(value, world.now()))));
    }

    void step() {
        if (world.chance(0.7)) {
            turns.step();
        } else {
            turns.piece();
        }
    }

    /** Position behind the last row of a destination, and up to which of them nothing can be lost. */
    long end(String destination) {
        return journals.get(destination).end();
    }

    long durable(String destination) {
        return durable.getOrDefault(destination, journals.get(destination).durable());
    }

    long waiting() {
        return writers.values().stream().mapToLong(DestinationWriter::waiting).sum();
    }

    LaneStatus status(String destination, String recorder) {
        return writers.get(destination).status(recorder).orElseThrow();
    }

    Account account(String destination, String recorder) {
        return status(destination, recorder).account();
    }

    /** A person has the rows of a lane that are on disk and not written yet discarded. */
    void discard(String destination, String recorder) {
        DestinationWriter writer = writers.get(destination);
        writer.discard(recorder, writer.last(recorder));
    }

    /** A person gives them to another design. */
    void give(String destination, RecorderDefinition design) {
        DestinationWriter writer = writers.get(destination);
        writer.give(
                design.id(),
                writer.last(design.id()),
                design.withWheres(design.wheres().stream()
                        .filter(where -> where.destination().equals(destination))
                        .toList()),
                ZoneOffset.UTC);
    }

    List<SetAside> aside(String destination, String recorder) {
        return local.aside().newest(recorder, 1_000_000).stream()
                .filter(each -> each.destination().equals(destination))
                .sorted(Comparator.comparing(SetAside::id))
                .toList();
    }

    /**
     * A person mends rows that are set aside and sends them again.
     *
     * @throws StoreProblem             where the destination cannot be asked
     * @throws IllegalArgumentException where they are not sent, or may be on their way
     */
    Resending.Outcome sendAgain(RecorderDefinition design, List<SetAside> rows) throws StoreProblem {
        Map<Long, Map<String, String>> mended = new LinkedHashMap<>();
        for (SetAside row : rows) {
            Map<String, String> texts = new LinkedHashMap<>(Resending.texts(row, design));
            texts.computeIfPresent(Records.VALUE, (name, text) -> Tables.mended(text));
            mended.put(row.id(), texts);
        }
        return new Resending(
                        local.aside(),
                        recorders::find,
                        destination -> Optional.ofNullable(destinations.get(destination)),
                        ZoneOffset.UTC,
                        turns)
                .send(rows, mended, RowFacts.of(design.name(), ZoneOffset.UTC));
    }

    String remarks() {
        return writers.values().stream()
                .map(each -> each.status() + " " + each.journalRemarks())
                .reduce("", (a, b) -> a + "\n" + b);
    }

    /** At the instant of the end: what is on the local disk stays as it is, whatever the code goes on to do. */
    private void ended() {
        local.close();
        journals.forEach((name, journal) -> durable.put(name, journal.durable()));
        writers.keySet().forEach(name -> counts.put(name, read(counts(name))));
    }

    /**
     * After the end: what was counted in memory is on disk as the system wrote it last.
     *
     * @param older counts of an earlier moment, where the power went; none where the process was killed
     */
    void leave(Map<String, byte[]> older) {
        offered.forEach(Offered::close);
        writers.keySet().forEach(name -> write(counts(name), older.getOrDefault(name, counts.get(name))));
    }

    /** The counts of just now. */
    Map<String, byte[]> countsNow() {
        Map<String, byte[]> now = new LinkedHashMap<>();
        writers.keySet().forEach(name -> now.put(name, read(counts(name))));
        return now;
    }

    private static byte[] read(Path file) {
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.READ)) {
            ByteBuffer bytes = ByteBuffer.allocate(COUNTS);
            channel.read(bytes, 0);
            return bytes.array();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static void write(Path file, byte[] counts) {
        try {
            Files.write(file, counts);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** A stop in the order of the engine. */
    void stop() {
        turns.atOnce = true;
        turns.all();
        recorders.close();
        workers.forEach(Worker::close);
        writers.values().forEach(DestinationWriter::close);
        local.close();
    }
}
