package dachshund.engine.destination;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.AppendingKind;
import dachshund.core.destination.Batching;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.TableKeeping;
import dachshund.core.destination.UnopenedStore;
import dachshund.core.reach.Outside;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TablesKind;
import dachshund.core.secret.Seals;
import dachshund.core.source.SettingField;
import dachshund.core.sql.Dialect;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.Todo;
import dachshund.core.transaction.Transacting;
import dachshund.core.transaction.TransactingKind;
import dachshund.engine.count.CounterBook;
import dachshund.engine.journal.Offered;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.Landed;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.live.AtWork;
import dachshund.engine.local.LocalStore;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Waker;
import dachshund.engine.thread.Worker;
import dachshund.engine.transaction.Transactions;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Consumer;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** All destinations at work: each with its journal, its writer and a thread that drives it. */
public final class Destinations implements AtWork<DestinationDefinition> {

    private static final Logger LOG = LoggerFactory.getLogger(Destinations.class);
    private static final Duration STOP_WRITER = Duration.ofSeconds(3);

    private final List<StoreKind> kinds;
    private final Map<String, StoreKind> kindsById;
    private final Seals seals;
    private final Outside outside;
    private final Path folder;
    private final SegmentJournal.Limits limits;
    private final LocalStore local;
    private final CounterBook book;
    private final PlantClock clock;
    private final Consumer<Landed> landed;
    /** Why a destination could not be put to work, by its id. */
    private final Map<String, String> refused = new ConcurrentHashMap<>();

    private final Map<String, Outlet> outlets = new ConcurrentHashMap<>();

    /** A destination at work: its writer and the thread that drives it. */
    private record Outlet(DestinationDefinition definition, DestinationWriter writer, Open open, Worker worker) {

        RowReading reading() {
            return open.reading();
        }

        TableKeeping keeping() {
            return open.keeping();
        }
    }

    /** What is open beside what the writer has: nobody there holds up a row. */
    private record Open(RowReading reading, RowStore keeping) {
        void close() {
            reading.close();
            keeping.close();
        }
    }

    /**
     * @param folder where journals live
     * @param limits of each journal
     * @param landed is told, now and then, of rows that have landed
     */
    public Destinations(
            List<StoreKind> kinds,
            Seals seals,
            Outside outside,
            Path folder,
            SegmentJournal.Limits limits,
            LocalStore local,
            CounterBook book,
            PlantClock clock,
            Consumer<Landed> landed) {
        this.kinds = kinds;
        this.kindsById = kinds.stream().collect(Collectors.toMap(StoreKind::id, kind -> kind));
        this.seals = seals;
        this.outside = outside;
        this.folder = folder;
        this.limits = limits;
        this.local = local;
        this.book = book;
        this.clock = clock;
        this.landed = landed;
    }

    @Override
    public Class<DestinationDefinition> type() {
        return DestinationDefinition.class;
    }

    /** In the order in which they were given. */
    public List<StoreKind> kinds() {
        return kinds;
    }

    /** @throws IllegalArgumentException where this version has no such kind */
    public StoreKind kind(String id) {
        return Optional.ofNullable(kindsById.get(id))
                .orElseThrow(() ->
                        new IllegalArgumentException("There is no destination of kind " + id + " in this version."));
    }

    /** One that is removed goes on as long as the process: rows may be held for it. */
    @Override
    public void changeover(List<DestinationDefinition> live, Plant plant) {
        refused.keySet().retainAll(live.stream().map(Definition::id).toList());
        live.forEach(this::openGuarded);
    }

    @Override
    public void tryOut(DestinationDefinition destination, Plant plant) {
        Batching batching = Batching.of(destination.settings());
        openStore(destination).close();
        if (batching.rows() <= 0) {
            throw new IllegalArgumentException("it writes no rows at once.");
        }
    }

    @Override
    public String refused(String id) {
        return refused.getOrDefault(id, "");
    }

    /** A definition that cannot be put to work is refused with a sentence; what ran before it goes on. */
    private void openGuarded(DestinationDefinition destination) {
        try {
            open(destination);
            if (!(outlets.get(destination.id()).reading() instanceof UnopenedStore)) {
                refused.remove(destination.id());
            }
        } catch (RuntimeException cannot) {
            refuse(destination, cannot);
        }
    }

    private String refuse(DestinationDefinition destination, RuntimeException cannot) {
        LOG.error("The destination {} cannot be put to work.", destination.name(), cannot);
        String own = cannot.getMessage() == null ? "" : cannot.getMessage();
        String why =
                "This destination cannot be put to work: " + (own.endsWith(".") ? own : Threads.words(cannot) + ".");
        refused.put(destination.id(), why);
        return why;
    }

    /** Opens a store with the settings of a definition; the caller closes it. */
    public RowStore openStore(DestinationDefinition destination) {
        StoreKind kind = kind(destination.store());
        return Objects.requireNonNull(
                kind.open(seals.opened(destination.id(), kind.settings(), destination.settings()), outside),
                kind.id() + " opened nothing.");
    }

    /** Opens the tables of a database for reading; the caller closes it. */
    public TableReading openTables(
            String id, StoreKind kind, List<SettingField> fields, Map<String, String> settings, ZoneId zone) {
        if (kind instanceof TablesKind tables) {
            return tables.openTables(seals.opened(id, fields, settings), zone, outside);
        }
        throw new IllegalArgumentException(kind.title() + " has no tables that can be read.");
    }

    /**
     * What transactions open.
     *
     * @param installation whose requests are marked
     */
    public Transactions.Opening transacting(String installation) {
        return new Transactions.Opening() {
            @Override
            public Transacting database(DestinationDefinition destination) {
                StoreKind kind = kind(destination.store());
                if (kind instanceof TransactingKind transacting) {
                    return transacting.openTransacting(
                            seals.opened(destination.id(), kind.settings(), destination.settings()),
                            installation,
                            outside);
                }
                throw new IllegalArgumentException(
                        destination.name() + " is no database in which several things can be done at once.");
            }

            @Override
            public TableReading reading(Definition database) {
                if (database instanceof DatabaseDefinition readOnly) {
                    StoreKind kind = kind(readOnly.store());
                    return openTables(
                            readOnly.id(), kind, DatabaseDefinition.fields(kind), readOnly.settings(), readOnly.zone());
                }
                DestinationDefinition destination = (DestinationDefinition) database;
                StoreKind kind = kind(destination.store());
                return openTables(destination.id(), kind, kind.settings(), destination.settings(), ZoneOffset.UTC);
            }

            @Override
            public Dialect dialect(Definition database) {
                return kind(database instanceof DatabaseDefinition readOnly
                                ? readOnly.store()
                                : ((DestinationDefinition) database).store())
                        .dialect();
            }

            @Override
            public void append(DestinationDefinition folder, Todo.Append line) {
                StoreKind kind = kind(folder.store());
                if (!(kind instanceof AppendingKind files)) {
                    throw new IllegalArgumentException(folder.name() + " is no folder of files.");
                }
                try {
                    files.append(
                            seals.opened(folder.id(), kind.settings(), folder.settings()),
                            outside,
                            line.file(),
                            line.header(),
                            line.line());
                } catch (StoreProblem no) {
                    throw new IllegalArgumentException(no.getMessage(), no);
                }
            }
        };
    }

    private Open openBeside(DestinationDefinition destination) {
        StoreKind kind = kind(destination.store());
        return new Open(
                Objects.requireNonNull(
                        kind.openReading(
                                seals.opened(destination.id(), kind.settings(), destination.settings()), outside),
                        kind.id() + " opened nothing."),
                openStore(destination));
    }

    private void open(DestinationDefinition destination) {
        Outlet outlet = outlets.get(destination.id());
        if (outlet == null) {
            outlets.put(destination.id(), startOutlet(destination));
        } else if (!outlet.definition().equals(destination) || outlet.reading() instanceof UnopenedStore) {
            Open beside = openBeside(destination);
            outlet.writer().replaceStore(openStore(destination), Batching.of(destination.settings()));
            outlets.put(destination.id(), new Outlet(destination, outlet.writer(), beside, outlet.worker()));
            closeLater(outlet.open());
            outlet.worker().wake();
        }
    }

    /** Somebody may be reading from it still; closing must not wait for them, nor they be waited for. */
    private void closeLater(Open beside) {
        Thread closing = Threads.once("closing", beside::close);
        LOG.debug("{} closes a store that has another address now.", closing.getName());
    }

    private Outlet startOutlet(DestinationDefinition destination) {
        StoreKind kind = kind(destination.store());
        Batching batching = Batching.AT_ONCE;
        RowStore writing;
        Open beside;
        try {
            batching = Batching.of(destination.settings());
            writing = openStore(destination);
            beside = openBeside(destination);
        } catch (RuntimeException cannot) {
            // What is to go there is held until it can be opened: at the next release, or at the next start.
            UnopenedStore neither = new UnopenedStore(kind.dialect(), refuse(destination, cannot));
            writing = neither;
            beside = new Open(neither, neither);
        }
        // The journal wakes the writer, which exists only after the journal.
        Waker waker = new Waker();
        Map.Entry<String, Long> known = local.journal(destination.id());
        SegmentJournal journal = new SegmentJournal(
                folder.resolve("journal").resolve(destination.id()),
                limits,
                local.installation(),
                new SegmentJournal.Known(known.getKey(), known.getValue()),
                waker);
        DestinationWriter writer = new DestinationWriter(
                destination.id(),
                destination.name(),
                journal,
                new Offered(folder.resolve("offered").resolve(destination.id())),
                writing,
                batching,
                local,
                book,
                clock);
        writer.tellLanded(landed);
        Worker worker = waker.wakes(Threads.start("writer-" + destination.id(), writer::step));
        return new Outlet(destination, writer, beside, worker);
    }

    /** A live destination for reading: with connections and locks of its own. */
    public Optional<RowReading> reading(String destination) {
        return Optional.ofNullable(outlets.get(destination)).map(Outlet::reading);
    }

    public Optional<DestinationWriter> writer(String destination) {
        return Optional.ofNullable(outlets.get(destination)).map(Outlet::writer);
    }

    /** The writer, where rows can be sent at all. */
    public Optional<DestinationWriter> sending(String destination) {
        return Optional.ofNullable(outlets.get(destination))
                .filter(outlet -> !kind(outlet.definition().store()).statementsOnly())
                .map(Outlet::writer);
    }

    /** How every lane stands, also those of recorders that were removed and still hold rows. */
    public Stream<LaneStatus> lanes() {
        return outlets.values().stream().flatMap(outlet -> outlet.writer().status().stream());
    }

    /** Every lane of the destination that is in trouble is tried now. */
    public void lookAgain(String destination) {
        Optional.ofNullable(outlets.get(destination)).ifPresent(outlet -> {
            outlet.writer().lookAgain();
            outlet.worker().wake();
        });
    }

    /** Rows on disk that their destinations should have taken by now, all together. */
    public long held() {
        return outlets.values().stream()
                .mapToLong(outlet -> outlet.writer().held())
                .sum();
    }

    /** Another connection than the writer's, to look after tables with. */
    public Optional<TableKeeping> keeping(String destination, String database) {
        return Optional.ofNullable(outlets.get(destination))
                .map(outlet -> outlet.open().keeping().in(database));
    }

    /** Name of a destination that was put to work once; its id where none was. */
    public String name(String destination) {
        return Optional.ofNullable(outlets.get(destination))
                .map(outlet -> outlet.definition().name())
                .orElse(destination);
    }

    /** Clears away what destinations no longer keep. */
    public void tidy(Instant now) {
        for (Outlet outlet : outlets.values()) {
            try {
                outlet.keeping()
                        .tidy(
                                now,
                                Set.copyOf(local.places().of(outlet.definition().id())));
            } catch (RuntimeException cannot) {
                LOG.error(
                        "Old files of {} could not be cleared away.",
                        outlet.definition().name(),
                        cannot);
            }
        }
    }

    /** What is on disk stays there for the next start. Ends within twice what one writer gets, whatever hangs. */
    public void close() {
        List<Thread> closing = outlets.values().stream()
                .map(outlet -> Threads.once("stop-" + outlet.definition().id(), () -> {
                    boolean ended = outlet.worker().close(STOP_WRITER);
                    outlet.writer().close(ended);
                    outlet.reading().close();
                }))
                .toList();
        long until = System.nanoTime() + STOP_WRITER.plus(STOP_WRITER).toNanos();
        for (Thread each : closing) {
            try {
                each.join(Math.max(1, (until - System.nanoTime()) / 1_000_000));
            } catch (InterruptedException interrupted) {
                Thread.currentThread().interrupt();
            }
        }
        outlets.clear();
    }
}
