package dachshund.engine;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.reach.Outside;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TableReading;
import dachshund.core.row.Made;
import dachshund.core.row.RowId;
import dachshund.core.row.RowMaker;
import dachshund.core.row.Snapshot;
import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkKind;
import dachshund.core.source.SettingField;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.core.transaction.TransactionDefinition;
import dachshund.core.work.Progress;
import dachshund.engine.archive.Archive;
import dachshund.engine.clock.ClockDoubt;
import dachshund.engine.count.CounterBook;
import dachshund.engine.destination.Destinations;
import dachshund.engine.destination.OldRows;
import dachshund.engine.destination.RowsAtWork;
import dachshund.engine.formula.FormulaKind;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.kept.KeptKind;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.Landed;
import dachshund.engine.lane.Lane;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.ledger.Happenings;
import dachshund.engine.ledger.Ledger;
import dachshund.engine.live.AtWork;
import dachshund.engine.local.LocalStore;
import dachshund.engine.night.NightWork;
import dachshund.engine.recorder.PastRows;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.engine.recorder.Recorders;
import dachshund.engine.recorder.Resending;
import dachshund.engine.source.Sources;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Hands;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.engine.transaction.OldMarks;
import dachshund.engine.transaction.Transactions;
import dachshund.engine.when.ActionPool;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The whole path from tags to rows, at work. It runs what the last release says and knows nothing of pages or of the
 * application's own database. All methods may be called from any thread.
 */
public final class Engine implements AutoCloseable {

    private static final Duration LOOKED_AT = Duration.ofMinutes(10);
    private static final String TIDIED = "tidied";
    /** Names of tables and files are remembered so long after the last row opened one. */
    private static final int PLACES_KEPT_DAYS = 400;

    private static final Logger LOG = LoggerFactory.getLogger(Engine.class);
    /** Runs wait there while our own database is away: a day of ten a second, or so. */
    private static final SegmentJournal.Limits LEDGER = new SegmentJournal.Limits(1L << 30, 512L << 20, 8L << 20, 100);

    private static final Duration KEPT_NOW = Duration.ofMinutes(5);
    private static final Duration KEPT_AT_ALL = Duration.ofMinutes(61);
    private static final Duration STOP_SOURCES = Duration.ofSeconds(1);
    private static final Duration STOP_ACTIONS = Duration.ofSeconds(2);
    private static final long LOOKOUT_NANOS = 1_000_000_000L;
    private static final long HOUSEKEEPING_NANOS = 60_000_000_000L;

    private final Settings settings;
    private final TagTable tags;
    private final ActionPool actions = new ActionPool();
    private final CounterBook book = new CounterBook();
    private final LocalStore local;
    private final List<LinkKind> linkKinds;
    private final Worker housekeeping;
    private final Worker lookout;
    private final Worker clearingRows;
    private final Worker clearingMarks;
    private final OldRows oldRows;
    private final ClockDoubt doubts;
    private final OldMarks oldMarks;
    private final Seals seals;
    private final Sources sources;
    private final Recorders recorders;
    private final Archive archive;
    private final Ledger ledger;
    private final Happenings happenings;
    private final Transactions transactions;
    private volatile Plant plant;
    private final Destinations destinations;
    /** Of a kind whose changeover broke off, why, by id. */
    private final Map<String, String> unplaced = new ConcurrentHashMap<>();
    /** In the order in which a changeover goes through them. */
    private final List<AtWork<?>> parts;

    /**
     * @param folder  where journal and local store live
     * @param site    name of the site
     * @param zone    plant time
     * @param secrets opens sealed settings
     * @param outside asked before each connection of a link or store
     */
    public record Settings(
            Path folder,
            String site,
            ZoneId zone,
            PlantClock clock,
            SecretBox secrets,
            Outside outside,
            List<LinkKind> links,
            List<StoreKind> stores,
            SegmentJournal.Limits journal) {}

    public Engine(Settings settings) {
        this.settings = settings;
        this.tags = new TagTable(settings.clock());
        this.plant = plant(List.of());
        this.local = new LocalStore(settings.folder().resolve("local.db"));
        this.linkKinds = Stream.concat(settings.links().stream(), Stream.of(new KeptKind(local), new FormulaKind(tags)))
                .toList();
        this.seals = new Seals(settings.secrets());
        this.sources = new Sources(linkKinds, seals, settings.outside(), tags, settings.clock(), local);
        restoreHour();
        RowId identity = new RowId(
                local.installation(),
                "00000000",
                local.mintEpoch(settings.clock().now()),
                0,
                0);
        this.destinations = new Destinations(
                settings.stores(),
                seals,
                settings.outside(),
                settings.folder(),
                settings.journal(),
                local,
                book,
                settings.clock(),
                this::landed);
        PlantWrites plantWrites = new PlantWrites(sources, tags, () -> plant);
        this.recorders = new Recorders(
                identity,
                tags,
                plant,
                destinations::sending,
                settings.clock(),
                book,
                local,
                actions,
                Hands.THREADS,
                plantWrites);
        this.archive =
                new Archive(settings.folder().resolve("archive"), settings.journal(), tags, settings.clock(), local);
        this.ledger = new Ledger(settings.folder().resolve("ledger"), LEDGER, local, settings.clock());
        this.transactions = new Transactions(
                new Transactions.Around(
                        settings.site(),
                        identity.installation() + "-" + identity.epoch(),
                        tags,
                        plantWrites,
                        destinations.transacting(local.installation()),
                        settings.clock(),
                        book,
                        local,
                        actions,
                        ledger::note),
                plant);
        this.happenings = new Happenings(ledger, transactions::identity, settings.clock());
        this.parts = new CopyOnWriteArrayList<>(List.of(sources, destinations, recorders, archive, transactions));
        this.oldRows = new OldRows(
                recorders::all,
                new RowsAtWork(destinations, local),
                local,
                settings.clock(),
                settings.zone(),
                (recorder, from, rows, before, begun) ->
                        happenings.removed(recorder.id(), recorder.name(), from, rows, before, begun));
        this.oldMarks = transactions.oldMarks(settings.zone());
        this.doubts = new ClockDoubt(settings.clock(), local);
        // Workers last: each finds everything there.
        this.housekeeping = Threads.start("housekeeping", () -> {
            tags.forgetUnseen(settings.clock().now().minus(LOOKED_AT));
            keepHour(KEPT_NOW);
            tidy();
            return HOUSEKEEPING_NANOS;
        });
        this.clearingRows = Threads.start("old-rows", oldRows::step);
        this.clearingMarks = Threads.start("old-marks", oldMarks::step);
        this.lookout = Threads.start("lookout", () -> {
            actions.lookAfter();
            return LOOKOUT_NANOS;
        });
    }

    private void landed(Landed rows) {
        happenings.landed(rows);
    }

    /** A further kind of definition that works; before the first changeover. */
    public synchronized void add(AtWork<?> more) {
        parts.add(more);
    }

    /**
     * Makes the given definitions live. What did not change is not interrupted; a recorder that changed misses no tick.
     *
     * @param live    what the release says
     * @param sources sources to run, drafted ones that are only looked at included
     */
    public void changeover(Collection<? extends Definition> live, List<SourceDefinition> sources) {
        changeover(live, sources, Progress.UNHEARD);
    }

    /** The same, told how far it is. */
    public synchronized void changeover(
            Collection<? extends Definition> live, List<SourceDefinition> sources, Progress progress) {
        List<Definition> all = Stream.concat(
                        live.stream().filter(each -> !(each instanceof SourceDefinition)), sources.stream())
                .toList();
        plant = plant(all);
        Plant released = plant(live);
        parts.forEach(part -> changeover(part, all, part.liveOnly() ? released : plant, progress));
    }

    private <D extends Definition> void changeover(
            AtWork<D> part, List<Definition> all, Plant around, Progress progress) {
        List<D> own = all.stream()
                .filter(part.type()::isInstance)
                .map(part.type()::cast)
                .toList();
        try {
            part.changeover(own, around, progress);
            own.forEach(each -> unplaced.remove(each.id()));
        } catch (RuntimeException | Error defect) {
            // One kind does not keep the others from what was released.
            LOG.error("Not all of {} is at work.", part.type().getSimpleName(), defect);
            String why = "Whether this is at work is not known: " + Threads.words(defect) + ".";
            own.forEach(each -> unplaced.put(each.id(), why));
        }
    }

    /** Why a definition could never be put to work here, in a sentence; empty where it could. Nothing is connected to. */
    public String unusable(Definition definition) {
        try {
            parts.forEach(part -> tryOut(part, definition));
            return "";
        } catch (RuntimeException cannot) {
            return definition.kind().words() + " " + definition.name() + " cannot be put to work here: "
                    + (cannot.getMessage() == null ? Threads.words(cannot) : cannot.getMessage());
        }
    }

    private <D extends Definition> void tryOut(AtWork<D> part, Definition definition) {
        if (part.type().isInstance(definition)) {
            part.tryOut(part.type().cast(definition), plant(List.of(definition)));
        }
    }

    /** Why a definition could not be put to work as it is designed; empty where it could. */
    public String refused(String id) {
        return Stream.concat(
                        Stream.of(unplaced.getOrDefault(id, "")), parts.stream().map(part -> part.refused(id)))
                .filter(why -> !why.isEmpty())
                .findFirst()
                .orElse("");
    }

    /** What recorders would know of these definitions. */
    public Plant plant(Collection<? extends Definition> definitions) {
        return new Plant(settings.site(), settings.zone(), definitions);
    }

    /** Only the sources change: somebody looks at a drafted one. */
    public synchronized void look(List<SourceDefinition> sources) {
        this.sources.changeover(sources, plant);
    }

    /** The last hour as Watch shows it outlives a restart; what landed since the last keeping is counted by the lanes alone. */
    private void keepHour(Duration back) {
        Instant now = settings.clock().now();
        local.keepMinutes(
                book.kept(now.minus(back)).stream()
                        .map(each -> new LocalStore.Minute(
                                each.recorder(),
                                each.minute(),
                                each.due() + " " + each.landed() + " " + each.setAside() + " " + each.skipped() + " "
                                        + each.refused() + " " + each.slowestMillis()))
                        .toList(),
                now.minus(KEPT_AT_ALL).getEpochSecond() / 60);
    }

    private void restoreHour() {
        try {
            book.restore(local.keptMinutes().stream()
                    .map(each -> {
                        String[] counts = each.counts().split(" ", -1);
                        return new CounterBook.Kept(
                                each.recorder(),
                                each.minute(),
                                Long.parseLong(counts[0]),
                                Long.parseLong(counts[1]),
                                Long.parseLong(counts[2]),
                                Long.parseLong(counts[3]),
                                Long.parseLong(counts[4]),
                                Long.parseLong(counts[5]));
                    })
                    .toList());
        } catch (RuntimeException strange) {
            LOG.error("What was counted in the last hour cannot be read; it is counted anew.", strange);
        }
    }

    /** Clears away what destinations no longer keep, once a day in the small hours; a day that they pass while nothing runs is left out. */
    private void tidy() {
        ZonedDateTime now = settings.clock().now().atZone(settings.zone());
        String today = now.toLocalDate().toString();
        if (doubts.doubt().isPresent()
                || !NightWork.isNight(now)
                || local.remembered(TIDIED).filter(today::equals).isPresent()) {
            return;
        }
        local.remember(TIDIED, today);
        local.places().forget(now.toLocalDate().minusDays(PLACES_KEPT_DAYS + longestKept()));
        local.designs().forget(now.toLocalDate().minusDays(PLACES_KEPT_DAYS));
        destinations.tidy(now.toInstant());
    }

    private int longestKept() {
        return recorders.all().stream()
                .flatMap(recorder -> recorder.wheres().stream())
                .mapToInt(where -> where.upkeep().keepDays())
                .max()
                .orElse(0);
    }

    /** Why nothing is removed for its age now; empty where the machine's clock is believed. */
    public Optional<ClockDoubt.Doubt> clockDoubt() {
        return doubts.doubt();
    }

    /** What became of the old rows of one place of a recorder when they were looked at last. */
    public Optional<OldRows.Removed> oldRows(String recorder, String destination) {
        return oldRows.removed(recorder, destination);
    }

    /** What became of the old marks of a transaction when they were looked at last, in each of its databases. */
    public List<OldMarks.Removed> oldMarks(TransactionDefinition design) {
        return oldMarks.removed(design);
    }

    /** Where rows of a recorder were written to last; names may be patterns. */
    public Optional<Place> lastPlace(String recorder, String destination) {
        return local.places().ofLane(Lane.name(recorder, destination)).stream()
                .findFirst()
                .map(Place::read);
    }

    /** Opens a store with the settings of a definition; the caller closes it. */
    public RowStore openStore(DestinationDefinition destination) {
        return destinations.openStore(destination);
    }

    /** Opens a database for reading with the settings of a definition; the caller closes it. */
    public TableReading openTables(DatabaseDefinition database) {
        return destinations.openTables(
                database.id(),
                storeKind(database.store()),
                settingFields(database),
                database.settings(),
                database.zone());
    }

    /** The same of a destination, in which times are of UTC. */
    public TableReading openTables(DestinationDefinition destination) {
        return destinations.openTables(
                destination.id(),
                storeKind(destination.store()),
                settingFields(destination),
                destination.settings(),
                ZoneOffset.UTC);
    }

    public StoreKind storeKind(String id) {
        return destinations.kind(id);
    }

    /** The definition as it may be stored: whatever secrets it has are sealed for it, and those of another are gone. */
    public Definition sealed(Definition definition) {
        return definition.withSettings(seals.sealed(definition.id(), settingFields(definition), definition.settings()));
    }

    /** A duplicate of a definition with its settings: its secrets are sealed anew, for the duplicate. */
    public Definition copied(Definition of, Definition copy) {
        return copy.withSettings(seals.copied(of.id(), copy.id(), settingFields(of), of.settings()));
    }

    private List<SettingField> settingFields(Definition definition) {
        if (definition instanceof DestinationDefinition destination) {
            return storeKind(destination.store()).settings();
        }
        if (definition instanceof DatabaseDefinition database) {
            return DatabaseDefinition.fields(storeKind(database.store()));
        }
        return definition instanceof SourceDefinition source
                ? sources.kind(source.link()).settings()
                : List.of();
    }

    /** Where a source or destination goes, and as whom, in words; empty where it goes nowhere. */
    public String place(Definition definition) {
        return SettingField.place(settingFields(definition), definition.settings());
    }

    /**
     * A live destination for reading: it has connections and locks of its own, so that whoever reads holds up no row. Closed
     * by the engine.
     */
    public Optional<RowReading> reading(String destination) {
        return destinations.reading(destination);
    }

    /** Sends rows again that were set aside. */
    public Resending resending() {
        return new Resending(local.aside(), recorders::find, this::reading, settings.zone(), Hands.THREADS);
    }

    /** Rows of a time that has been, on their way as any other. */
    public PastRows pastRows() {
        return new PastRows(recorders::find, Hands.THREADS);
    }

    /** Every kind of destination, in the order in which they were given. */
    public List<StoreKind> storeKinds() {
        return destinations.kinds();
    }

    /** Every protocol, those of the settings and those the engine brings itself. */
    public List<LinkKind> linkKinds() {
        return linkKinds;
    }

    /** The rows a design would write now: one, or a line for each of its tags. */
    public List<Made> preview(RecorderDefinition recorder, Plant around) {
        RowMaker maker = new RowMaker(recorder.layout(), around.facts(recorder));
        TagValue[] now =
                maker.tags().stream().map(tag -> tags.entry(tag).value()).toArray(TagValue[]::new);
        TagValue[] good =
                maker.tags().stream().map(tag -> tags.entry(tag).lastGood()).toArray(TagValue[]::new);
        return maker.make(
                recorders.identity(recorder.id()), settings.clock().now(), new Snapshot(now, good, Optional.empty()));
    }

    public TagTable tags() {
        return tags;
    }

    public Sources sources() {
        return sources;
    }

    public Recorders recorders() {
        return recorders;
    }

    public Archive archive() {
        return archive;
    }

    public Transactions transactions() {
        return transactions;
    }

    public Ledger ledger() {
        return ledger;
    }

    /** Notes in the ledger what people and programs do beside the transactions. */
    public Happenings happenings() {
        return happenings;
    }

    public CounterBook book() {
        return book;
    }

    public LocalStore local() {
        return local;
    }

    public ZoneId zone() {
        return settings.zone();
    }

    public PlantClock clock() {
        return settings.clock();
    }

    public Path folder() {
        return settings.folder();
    }

    /** How every live recorder stands, by id. */
    public Map<String, RecorderStatus> status() {
        Map<String, List<LaneStatus>> lanes = destinations.lanes().collect(Collectors.groupingBy(LaneStatus::recorder));
        Map<String, RecorderStatus> all = new HashMap<>();
        recorders
                .all()
                .forEach(design ->
                        all.put(design.id(), recorders.status(design, lanes.getOrDefault(design.id(), List.of()))));
        return all;
    }

    /** How every lane stands, also those of recorders that were removed and still hold rows. */
    public List<LaneStatus> lanes() {
        return destinations.lanes().toList();
    }

    /** The writer of a live destination. */
    public Optional<DestinationWriter> writer(String destination) {
        return destinations.writer(destination);
    }

    /** Every lane of the destination that is in trouble is tried now. */
    public void lookAgain(String destination) {
        destinations.lookAgain(destination);
    }

    /** Rows on disk that their destinations should have taken by now, all together. */
    public long held() {
        return destinations.held();
    }

    /** Of these, the ones for one destination. */
    public long held(String destination) {
        return destinations.writer(destination).map(DestinationWriter::held).orElse(0L);
    }

    /**
     * Closes in the order of the path: what sources have told becomes rows, rows come to disk, what is on disk stays there
     * for the next start. Ends within 10 s, whatever hangs.
     */
    @Override
    public synchronized void close() {
        housekeeping.close(STOP_SOURCES);
        lookout.close(STOP_SOURCES);
        clearingRows.close(STOP_SOURCES);
        clearingMarks.close(STOP_SOURCES);
        // What it has begun it may still answer.
        transactions.close();
        sources.close(STOP_SOURCES);
        recorders.close();
        archive.close();
        actions.drain(STOP_ACTIONS);
        // No row is made while the writers close: it would be in one journal and not in the other.
        actions.close();
        long left = recorders.passOver();
        if (left > 0) {
            LOG.error("{} changes could not be looked at before the stop; they are counted as skipped.", left);
        }
        destinations.close();
        ledger.close();
        keepHour(KEPT_AT_ALL);
        local.close();
    }
}
