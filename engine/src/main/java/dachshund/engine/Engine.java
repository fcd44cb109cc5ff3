package dachshund.engine;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.Place;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreKind;
import dachshund.core.row.Made;
import dachshund.core.row.RowId;
import dachshund.core.row.RowMaker;
import dachshund.core.row.Snapshot;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkKind;
import dachshund.core.tag.TagValue;
import dachshund.core.time.PlantClock;
import dachshund.engine.count.CounterBook;
import dachshund.engine.formula.FormulaKind;
import dachshund.engine.journal.SegmentJournal;
import dachshund.engine.kept.KeptKind;
import dachshund.engine.lane.DestinationWriter;
import dachshund.engine.lane.Lane;
import dachshund.engine.lane.LaneStatus;
import dachshund.engine.local.LocalStore;
import dachshund.engine.recorder.RecorderStatus;
import dachshund.engine.recorder.Recorders;
import dachshund.engine.source.Sources;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import java.nio.file.Path;
import java.time.Duration;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * The whole path from tags to rows, at work. It runs what the last release says and knows nothing of pages or of the
 * application's own database. All methods may be called from any thread.
 */
public final class Engine implements AutoCloseable {

    private static final Duration LOOKED_AT = Duration.ofMinutes(10);
    private static final LocalTime TIDY_AT = LocalTime.of(2, 30);
    private static final long HOUSEKEEPING_NANOS = 60_000_000_000L;

    private final Settings settings;
    private final Map<String, StoreKind> storeKinds;
    private final TagTable tags = new TagTable();
    private final CounterBook book = new CounterBook();
    private final LocalStore local;
    private final List<LinkKind> linkKinds;
    private final Threads.Worker housekeeping;
    private final Sources sources;
    private final Recorders recorders;
    private volatile Plant plant;
    private LocalDate tidied = LocalDate.MIN;
    private final Map<String, Outlet> outlets = new ConcurrentHashMap<>();

    /**
     * @param folder  where journal and local store live
     * @param site    name of the site
     * @param zone    plant time
     * @param secrets opens sealed settings
     */
    public record Settings(
            Path folder,
            String site,
            ZoneId zone,
            PlantClock clock,
            SecretBox secrets,
            List<LinkKind> links,
            List<StoreKind> stores,
            SegmentJournal.Limits journal) {}

    /** A destination at work: its writer and the thread that drives it. */
    private record Outlet(DestinationDefinition definition, DestinationWriter writer, Threads.Worker worker) {}

    public Engine(Settings settings) {
        this.settings = settings;
        this.storeKinds = settings.stores().stream().collect(Collectors.toMap(StoreKind::id, kind -> kind));
        this.plant = plant(List.of());
        this.local = new LocalStore(settings.folder().resolve("local.db"));
        this.linkKinds = Stream.concat(settings.links().stream(), Stream.of(new KeptKind(local), new FormulaKind(tags)))
                .toList();
        this.sources = new Sources(linkKinds, settings.secrets(), tags, settings.clock(), local);
        RowId identity = new RowId(
                local.installation(),
                "00000000",
                local.mintEpoch(settings.clock().now()),
                0,
                0);
        this.housekeeping = Threads.start("housekeeping", () -> {
            tags.forgetUnseen(settings.clock().now().minus(LOOKED_AT));
            tidy();
            return HOUSEKEEPING_NANOS;
        });
        this.recorders = new Recorders(identity, tags, plant, settings.clock(), book, local);
    }

    /**
     * Makes the given definitions live. What did not change is not interrupted; a recorder that changed misses no tick.
     *
     * @param live    destinations and recorders of the release
     * @param sources sources to run, drafted ones that are only looked at included
     */
    public synchronized void changeover(Collection<? extends Definition> live, List<SourceDefinition> sources) {
        this.sources.changeover(sources);
        for (Definition definition : live) {
            if (definition instanceof DestinationDefinition destination) {
                open(destination);
            }
        }
        List<RecorderDefinition> wanted = live.stream()
                .filter(RecorderDefinition.class::isInstance)
                .map(RecorderDefinition.class::cast)
                .toList();
        plant = plant(Stream.concat(live.stream().filter(each -> !(each instanceof SourceDefinition)), sources.stream())
                .toList());
        recorders.changeover(wanted, plant, id -> Optional.ofNullable(outlets.get(id))
                .filter(outlet -> !storeKind(outlet.definition().store()).statementsOnly())
                .map(Outlet::writer));
    }

    /** What recorders would know of these definitions. */
    public Plant plant(Collection<? extends Definition> definitions) {
        return new Plant(settings.site(), settings.zone(), definitions);
    }

    /** Only the sources change: somebody looks at a drafted one. */
    public synchronized void look(List<SourceDefinition> sources) {
        this.sources.changeover(sources);
    }

    private void open(DestinationDefinition destination) {
        Outlet outlet = outlets.get(destination.id());
        if (outlet == null) {
            outlets.put(destination.id(), startOutlet(destination));
        } else if (!outlet.definition().equals(destination)) {
            outlet.writer().replaceStore(openStore(destination), Batching.of(destination.settings()));
            outlets.put(destination.id(), new Outlet(destination, outlet.writer(), outlet.worker()));
            outlet.worker().wake();
        }
    }

    private Outlet startOutlet(DestinationDefinition destination) {
        // The journal wakes the writer, which exists only after the journal.
        Threads.Worker[] worker = new Threads.Worker[1];
        SegmentJournal journal = new SegmentJournal(
                settings.folder().resolve("journal").resolve(destination.id()),
                settings.journal(),
                () -> Optional.ofNullable(worker[0]).ifPresent(Threads.Worker::wake));
        DestinationWriter writer = new DestinationWriter(
                destination.id(),
                destination.name(),
                journal,
                openStore(destination),
                Batching.of(destination.settings()),
                local,
                book,
                settings.clock());
        worker[0] = Threads.start("writer-" + destination.id(), writer::step);
        return new Outlet(destination, writer, worker[0]);
    }

    /** Clears away what destinations no longer keep, once a day in the small hours. */
    private void tidy() {
        ZonedDateTime now = settings.clock().now().atZone(settings.zone());
        if (now.toLocalTime().isAfter(TIDY_AT) && !now.toLocalDate().equals(tidied)) {
            outlets.values().forEach(outlet -> outlet.writer()
                    .store()
                    .tidy(
                            now.toInstant(),
                            Set.copyOf(local.placesOf(outlet.definition().id()))));
            tidied = now.toLocalDate();
        }
    }

    /** Where rows of a recorder were written to last; names may be patterns. */
    public Optional<Place> lastPlace(String recorder, String destination) {
        return local.places(Lane.name(recorder, destination)).stream()
                .findFirst()
                .map(Place::read);
    }

    /** Opens a store with the settings of a definition; the caller closes it. */
    public RowStore openStore(DestinationDefinition destination) {
        Map<String, String> clear = destination.settings().entrySet().stream()
                .collect(Collectors.toMap(
                        Map.Entry::getKey, entry -> settings.secrets().open(entry.getValue())));
        return storeKind(destination.store()).open(clear);
    }

    /** The store that a live destination's rows go to; closed by the engine. */
    public Optional<RowStore> store(String destination) {
        return Optional.ofNullable(outlets.get(destination))
                .map(outlet -> outlet.writer().store());
    }

    public StoreKind storeKind(String id) {
        return Optional.ofNullable(storeKinds.get(id))
                .orElseThrow(() ->
                        new IllegalArgumentException("There is no destination of kind " + id + " in this version."));
    }

    /** Every kind of destination, in the order in which they were given. */
    public List<StoreKind> storeKinds() {
        return settings.stores();
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
        Map<String, List<LaneStatus>> lanes = outlets.values().stream()
                .flatMap(outlet -> outlet.writer().status().stream())
                .collect(Collectors.groupingBy(LaneStatus::recorder));
        Map<String, RecorderStatus> all = new HashMap<>();
        recorders
                .all()
                .forEach(design ->
                        all.put(design.id(), recorders.status(design, lanes.getOrDefault(design.id(), List.of()))));
        return all;
    }

    /** Rows on disk that have not landed, all destinations together. */
    public long held() {
        return outlets.values().stream()
                .mapToLong(outlet -> outlet.writer().held())
                .sum();
    }

    /** Rows on disk for one destination. */
    public long held(String destination) {
        return Optional.ofNullable(outlets.get(destination))
                .map(outlet -> outlet.writer().held())
                .orElse(0L);
    }

    /** Stops making rows, then closes everything; what is on disk stays there for the next start. */
    @Override
    public synchronized void close() {
        housekeeping.close();
        recorders.close();
        sources.close();
        outlets.values().forEach(outlet -> {
            outlet.worker().close();
            outlet.writer().close();
        });
        outlets.clear();
        local.close();
    }
}
