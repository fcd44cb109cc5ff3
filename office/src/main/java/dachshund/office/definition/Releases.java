package dachshund.office.definition;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.release.Difference;
import dachshund.core.release.Differences;
import dachshund.core.tag.TagInfo;
import dachshund.core.time.PlantClock;
import dachshund.core.work.Progress;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import java.io.IOException;
import java.util.ArrayDeque;
import java.util.Collection;
import java.util.Deque;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * The step from what is drafted to what is live, and the engine's following. While our own database is away nothing can be
 * released, and what is live goes on.
 * <p>
 * A new source is connected as soon as it is drafted, so that its values can be looked at; recorders and destinations run only
 * as released.
 */
@Component
public class Releases {

    private static final Logger LOG = LoggerFactory.getLogger(Releases.class);

    private static final String RELEASED_STOPPED = "released stopped";

    private final Definitions definitions;
    private final DefinitionTables tables;
    private final LiveFile file;
    private final Engine engine;
    private final Audit audit;
    private final PlantClock clock;
    private final TransactionTemplate transaction;
    /** By release. */
    private final Map<Long, DefinitionTables.By> madeBy = new ConcurrentHashMap<>();

    /** The database may hold another state than this one: a change of it was not answered. */
    private volatile boolean unsure;

    private List<SourceDefinition> looked = List.of();

    Releases(
            Definitions definitions,
            DefinitionTables tables,
            LiveFile file,
            Engine engine,
            Audit audit,
            PlantClock clock,
            TransactionTemplate transaction) {
        this.definitions = definitions;
        this.tables = tables;
        this.file = file;
        this.engine = engine;
        this.audit = audit;
        this.clock = clock;
        this.transaction = transaction;
    }

    /** Starts what was live at the last release, without our own database. */
    public void startFromFile() {
        synchronized (definitions) {
            try {
                file.live().ifPresent(live -> {
                    definitions.become(Designed.of(live.definitions(), List.of(), live.release(), Map.of()));
                    changeover(Progress.UNHEARD);
                });
            } catch (IOException damaged) {
                LOG.error("Starting without the last release: {}", damaged.getMessage());
            }
        }
    }

    /** Reads all from our own database and makes the engine follow. */
    public void load() {
        synchronized (definitions) {
            definitions.become(Designed.of(tables.live(), tables.drafts(), tables.newestRelease(), tables.changedIn()));
            madeBy.putAll(tables.releasedBy());
            changeover(Progress.UNHEARD);
            writeFile();
        }
    }

    /** Reads all again where the database did not say whether it took the last change; tried again where it is away. */
    public void settle() {
        synchronized (definitions) {
            if (!unsure) {
                return;
            }
            try {
                load();
                unsure = false;
            } catch (DataAccessException away) {
                LOG.warn(
                        "Whether the last change was taken is not known before our own database answers: {}",
                        away.getMessage());
            }
        }
    }

    /** Does something to our own database; where that gives no answer, it is asked what it holds when it does. */
    <T> T keeping(Supplier<T> change) {
        try {
            return change.get();
        } catch (DataAccessException | TransactionException unanswered) {
            unsure = true;
            throw unanswered;
        }
    }

    void keeping(Runnable change) {
        keeping(() -> {
            change.run();
            return true;
        });
    }

    /** What is drafted is now this; sources are looked at as they are drafted. */
    void drafted(Designed next) {
        definitions.become(next);
        List<SourceDefinition> sources = sources();
        if (!sources.equals(looked)) {
            engine.look(sources);
            looked = sources; // where looking broke off, the next edit looks again
        }
    }

    private void changeover(Progress progress) {
        List<SourceDefinition> sources = sources();
        engine.changeover(definitions.now().live().values(), sources, progress);
        looked = sources;
    }

    private void writeFile() {
        try {
            file.write(new LiveFile.Live(definitions.release(), definitions.live()));
        } catch (IOException e) {
            LOG.error(
                    "The live definitions could not be written to their file; a start without our own database would use older ones.",
                    e);
        }
    }

    /** Sources to run: live ones, with the tags a draft adds, and new ones that are only drafted. */
    private List<SourceDefinition> sources() {
        Designed now = definitions.now();
        Map<String, SourceDefinition> run = new LinkedHashMap<>();
        now.live().values().stream()
                .filter(SourceDefinition.class::isInstance)
                .map(SourceDefinition.class::cast)
                .forEach(source -> run.put(source.id(), source));
        for (Draft draft : now.drafts().values()) {
            if (draft.definition().orElse(null) instanceof SourceDefinition source) {
                SourceDefinition live = run.get(source.id());
                run.put(source.id(), live == null ? source : live.withTags(union(live.tags(), source.tags())));
            }
        }
        return List.copyOf(run.values());
    }

    /** What is live stays as it was released until the next release; what is new can be looked at. */
    private static List<TagInfo> union(List<TagInfo> live, List<TagInfo> drafted) {
        Map<String, TagInfo> all = new LinkedHashMap<>();
        live.forEach(tag -> all.put(tag.address(), tag));
        drafted.forEach(tag -> all.putIfAbsent(tag.address(), tag));
        return List.copyOf(all.values());
    }

    /** The newest first. */
    public List<ReleaseMade> newest(int limit) {
        return tables.releases(limit);
    }

    /** Who released the thing last, and when; empty for what was never released, or where that is not known here. */
    public Optional<DefinitionTables.By> released(String id) {
        return Optional.ofNullable(definitions.now().changedIn().get(id))
                .flatMap(release -> Optional.ofNullable(madeBy.get(release)));
    }

    /** The things among these that are drafted, with whatever drafted things they need. */
    public Set<String> withNeeded(Collection<String> things) {
        Map<String, Draft> drafts = definitions.now().drafts();
        Set<String> all = new LinkedHashSet<>();
        Deque<String> open = new ArrayDeque<>(things);
        while (!open.isEmpty()) {
            Draft draft = drafts.get(open.remove());
            if (draft == null || !all.add(draft.id())) {
                continue;
            }
            draft.definition().ifPresent(each -> {
                open.addAll(each.kind().thingsOf(each));
                each.kind().tagsOf(each).forEach(tag -> open.add(tag.source()));
            });
        }
        return all;
    }

    /** What the release of these drafts changes. */
    public List<Difference> differences(Set<String> released) {
        return Differences.between(definitions.live(), definitions.after(released));
    }

    /** Stands for exactly the drafts there are now; another edit of any of them makes it another text. */
    public String fingerprint() {
        return definitions.drafts().stream()
                .map(draft -> draft.id() + "." + draft.revision())
                .sorted()
                .collect(Collectors.joining(" "));
    }

    /** Makes all drafts live together: see {@link #release(Set, String, String)}. */
    public void releaseAll(String seen, String by) {
        release(definitions.now().drafts().keySet(), seen, by);
    }

    /**
     * Makes the drafts of these things live together. What they need goes with them: see {@link #withNeeded}.
     *
     * @param seen the {@link #fingerprint} of what was reviewed
     * @throws EditedByOther where the drafts are not those any more; nothing is released then
     */
    public void release(Set<String> things, String seen, String by) {
        release(things, Set.of(), seen, by, Progress.UNHEARD);
    }

    /**
     * The same, told how far it is; it can be ended until it is written to our own database.
     *
     * @param stopped recorders that are new and make no rows before somebody starts them
     */
    public void release(Set<String> things, Set<String> stopped, String seen, String by, Progress progress) {
        progress.step("Finding what differs", 0, true);
        synchronized (definitions) {
            settle();
            if (!seen.equals(fingerprint())) {
                throw new EditedByOther("Somebody");
            }
            Set<String> ids = withNeeded(things);
            List<Difference> differences = differences(ids);
            List<String> summary = differences.stream()
                    .map(difference -> difference.thing().kind().words() + " "
                            + difference.thing().name() + ": "
                            + difference.change().words().toLowerCase(Locale.ROOT) + ". "
                            + String.join(" ", difference.sentences()))
                    .toList();
            List<Draft> released = definitions.drafts().stream()
                    .filter(draft -> ids.contains(draft.id()))
                    .toList();
            long before = definitions.release();
            long release;
            progress.step("Writing to our own database", released.size(), false);
            List<Draft> resting = released.stream()
                    .filter(draft -> stopped.contains(draft.id())
                            && draft.definition().orElse(null) instanceof RecorderDefinition
                            && definitions.live(draft.id()).isEmpty())
                    .toList();
            try {
                // Before it is live, so that not one row is made.
                resting.forEach(draft -> engine.recorders().stop(draft.id(), by, RELEASED_STOPPED));
                release = keeping(() -> transaction.execute(
                        status -> tables.insertRelease(released, summary, by, clock.now(), progress)));
            } catch (DataAccessException | TransactionException unanswered) {
                // The database may have taken it and not been able to say so: what it holds now is what is released.
                settle();
                if (definitions.release() == before) {
                    resting.forEach(draft -> engine.recorders().start(draft.id()));
                    throw unanswered;
                }
                return;
            } catch (RuntimeException | Error defect) {
                resting.forEach(draft -> engine.recorders().start(draft.id()));
                throw defect;
            }
            // It is released: whatever fails from here on, what runs is what was released.
            madeBy.put(release, new DefinitionTables.By(by, clock.now()));
            definitions.become(definitions.now().released(ids, release));
            changeover(progress);
            progress.step("Writing the file that a start reads", 0, false);
            writeFile();
            engine.happenings().released(release, differences.size(), by);
            try {
                audit.note(by, "released", "release " + release + ": " + differences.size() + " things");
                resting.forEach(draft -> audit.note(by, "stopped a recorder", draft.name() + ": " + RELEASED_STOPPED));
            } catch (DataAccessException cannot) {
                LOG.error("Release {} by {} could not be noted in the audit.", release, by, cannot);
            }
        }
    }
}
