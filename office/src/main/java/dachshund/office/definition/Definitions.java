package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionKind;
import dachshund.core.definition.DefinitionKinds;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.release.Difference;
import dachshund.core.release.Differences;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import dachshund.office.person.Acting;
import java.io.IOException;
import java.security.SecureRandom;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Everything that is designed: what is live, what is drafted, and the step from one to the other. Kept in memory,
 * changed in our own database first; while that is away nothing can be changed, and what is live goes on.
 * <p>
 * A new source is connected as soon as it is drafted, so that its values can be looked at; recorders and destinations
 * run only as released.
 */
@Component
public class Definitions {

    private static final Logger LOG = LoggerFactory.getLogger(Definitions.class);
    /** Revisions between two releases. */
    private static final int REVISIONS = 10_000;

    private static final int LONGEST_NAME = 120;

    private static final long MOST_RELEASES = Integer.MAX_VALUE / REVISIONS - 1;

    private final DefinitionTables tables;
    private final LiveFile file;
    private final Engine engine;
    private final Audit audit;
    private final Acting acting;
    private final PlantClock clock;
    private final TransactionTemplate transaction;
    /** From which page of whom a thing was edited last. */
    private final Map<String, String> editedFrom = new ConcurrentHashMap<>();
    /** By recorder, the revision in which its columns, Whens or Wheres last got other places. */
    private final Map<String, Integer> rearranged = new ConcurrentHashMap<>();
    /** By release. */
    private final Map<Long, DefinitionTables.By> releasedBy = new ConcurrentHashMap<>();
    /** Revisions up to which were given out once and are not any more. */
    private final Map<String, Integer> retired = new ConcurrentHashMap<>();

    /** The database may hold another state than this one: a change of it was not answered. */
    private volatile boolean unsure;

    private volatile long version;
    private volatile State state = new State(Map.of(), Map.of(), 0, Map.of(), Map.of());

    private record State(
            Map<String, Definition> live,
            Map<String, Draft> drafts,
            long release,
            Map<TagRef, TagInfo> tags,
            Map<String, Long> changedIn) {}

    Definitions(
            DefinitionTables tables,
            LiveFile file,
            Engine engine,
            Audit audit,
            Acting acting,
            PlantClock clock,
            TransactionTemplate transaction) {
        this.tables = tables;
        this.file = file;
        this.engine = engine;
        this.audit = audit;
        this.acting = acting;
        this.clock = clock;
        this.transaction = transaction;
    }

    /** Starts what was live at the last release, without our own database. */
    public synchronized void startFromFile() {
        try {
            file.read().ifPresent(live -> {
                become(live.definitions(), List.of(), live.release(), Map.of());
                engine.changeover(state.live().values(), sources());
            });
        } catch (IOException damaged) {
            LOG.error("Starting without the last release: {}", damaged.getMessage());
        }
    }

    /** Reads all from our own database and makes the engine follow. */
    public synchronized void load() {
        become(tables.live(), tables.drafts(), tables.newestRelease(), tables.changedIn());
        releasedBy.putAll(tables.releasedBy());
        engine.changeover(state.live().values(), sources());
        writeFile();
    }

    /** Reads all again where the database did not say whether it took the last change; tried again where it is away. */
    public synchronized void settle() {
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

    private void become(List<Definition> live, List<Draft> drafts, long release, Map<String, Long> changedIn) {
        Map<String, Definition> liveById = new HashMap<>();
        live.forEach(definition -> liveById.put(definition.id(), definition));
        Map<String, Draft> draftsById = new LinkedHashMap<>();
        drafts.forEach(draft -> draftsById.put(draft.id(), draft));
        Map<String, Definition> both = new HashMap<>(liveById);
        draftsById.values().forEach(draft -> draft.definition()
                .ifPresentOrElse(definition -> both.put(draft.id(), definition), () -> both.remove(draft.id())));
        Map<TagRef, TagInfo> tags = new HashMap<>();
        both.values().stream()
                .filter(SourceDefinition.class::isInstance)
                .map(SourceDefinition.class::cast)
                .forEach(source -> source.tags().forEach(tag -> tags.put(new TagRef(source.id(), tag.address()), tag)));
        // One step, so that nobody sees definitions without their tags.
        state = new State(liveById, draftsById, release, tags, changedIn);
        version++;
    }

    private void writeFile() {
        try {
            file.write(
                    new LiveFile.Live(state.release(), List.copyOf(state.live().values())));
        } catch (IOException e) {
            LOG.error(
                    "The live definitions could not be written to their file; a start without our own database would use older ones.",
                    e);
        }
    }

    /** Sources to run: live ones, with the tags a draft adds, and new ones that are only drafted. */
    private List<SourceDefinition> sources() {
        Map<String, SourceDefinition> run = new HashMap<>();
        state.live().values().stream()
                .filter(SourceDefinition.class::isInstance)
                .map(SourceDefinition.class::cast)
                .forEach(source -> run.put(source.id(), source));
        for (Draft draft : state.drafts().values()) {
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

    /** A new id. */
    public static String newId() {
        return String.format("%08x", new SecureRandom().nextInt());
    }

    /** The thing as drafted, else as live. */
    public Optional<Definition> find(String id) {
        Draft draft = state.drafts().get(id);
        return draft != null ? draft.definition() : live(id);
    }

    /** The thing as drafted, else as live, if it is of the type. */
    public <T extends Definition> Optional<T> find(Class<T> type, String id) {
        return find(id).filter(type::isInstance).map(type::cast);
    }

    public Optional<Definition> live(String id) {
        return Optional.ofNullable(state.live().get(id));
    }

    public Optional<Draft> draft(String id) {
        return Optional.ofNullable(state.drafts().get(id));
    }

    public List<Draft> drafts() {
        return List.copyOf(state.drafts().values());
    }

    /** Id of the release that is live, 0 before the first. */
    public long release() {
        return state.release();
    }

    public List<ReleaseMade> releases(int limit) {
        return tables.releases(limit);
    }

    public List<Definition> live() {
        return List.copyOf(state.live().values());
    }

    /** Everything as it would be if all drafts were released. */
    public List<Definition> drafted() {
        return after(state.drafts().keySet());
    }

    /** Everything as it would be if the drafts of these things were released, and no others. */
    public List<Definition> after(Set<String> released) {
        Map<String, Definition> all = new HashMap<>(state.live());
        state.drafts().values().stream()
                .filter(draft -> released.contains(draft.id()))
                .forEach(draft -> draft.definition()
                        .ifPresentOrElse(definition -> all.put(draft.id(), definition), () -> all.remove(draft.id())));
        return List.copyOf(all.values());
    }

    /** The things among these that are drafted, with whatever drafted things they need. */
    public Set<String> withNeeded(Collection<String> things) {
        Map<String, Draft> drafts = state.drafts();
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

    /** All of one type as drafted, by name. */
    public <T extends Definition> List<T> all(Class<T> type) {
        return drafted().stream()
                .filter(type::isInstance)
                .map(type::cast)
                .sorted(Comparator.comparing(Definition::name, String.CASE_INSENSITIVE_ORDER))
                .toList();
    }

    public Optional<TagInfo> tag(TagRef tag) {
        return Optional.ofNullable(state.tags().get(tag));
    }

    /** What the release of these drafts changes. */
    public List<Difference> differences(Set<String> released) {
        return Differences.between(live(), after(released));
    }

    /** A sentence on why the thing cannot have the name; empty where it can. */
    public String nameProblem(Class<? extends Definition> type, String id, String name) {
        return nameProblem(DefinitionKinds.of(type), id, name);
    }

    /** A sentence on why the thing cannot have the name; empty where it can. */
    public String nameProblem(DefinitionKind<?> kind, String id, String name) {
        if (name.isBlank()) {
            return "A name is needed.";
        }
        if (name.strip().length() > LONGEST_NAME) {
            return "A name has up to " + LONGEST_NAME + " characters.";
        }
        boolean taken = drafted().stream()
                .anyMatch(other -> other.kind().equals(kind)
                        && !other.id().equals(id)
                        && other.name().equalsIgnoreCase(name.strip()));
        return taken
                ? "There is a " + kind.words().toLowerCase(java.util.Locale.ROOT) + " named " + name.strip()
                        + " already."
                : "";
    }

    /**
     * Drafts an edit.
     *
     * @param seen the revision that the editor had before them, 0 where nothing was drafted
     * @throws EditedByOther where somebody drafted another edit since
     */
    public synchronized void edit(Definition brought, int seen, String by) {
        edit(admitted(brought), by, seen);
    }

    /** What may be stored of what somebody brings, by whatever way: see {@link #switchWriting}, and secrets are sealed. */
    private Definition admitted(Definition brought) {
        Definition sealed = engine.sealed(brought);
        return sealed instanceof SourceDefinition source
                ? source.withWriting(find(SourceDefinition.class, source.id())
                        .map(SourceDefinition::writing)
                        .orElse(false))
                : sealed;
    }

    /** Drafts whether a source may be written to. Whoever calls it has seen to it that this person may decide that. */
    public synchronized void switchWriting(String id, boolean on, String by) {
        edit(find(SourceDefinition.class, id).orElseThrow().withWriting(on), by, revision(id));
        audit.note(
                by,
                on ? "switched writing on" : "switched writing off",
                find(id).orElseThrow().name());
    }

    private void edit(Definition definition, String by, int seen) {
        settle();
        if (revision(definition.id()) != seen) {
            throw new EditedByOther(draft(definition.id())
                    .map(Draft::by)
                    .map(who -> who.equals(by) ? "You, in another window or before this page was loaded," : who)
                    .orElse("Somebody"));
        }
        if (find(definition.id()).filter(definition::equals).isPresent()) {
            return;
        }
        circle(definition).ifPresent(sentence -> {
            throw new IllegalArgumentException(sentence);
        });
        boolean elsewhere = leadsElsewhere(definition);
        put(new Draft(
                definition.id(),
                nextRevision(definition.id()),
                definition.kind(),
                definition.name(),
                Optional.of(definition),
                by,
                clock.now()));
        if (elsewhere) {
            noteConnection(definition, by);
        }
    }

    /** Drafts several edits together, all or none. What is equal to what is there is no edit. */
    public synchronized int editAll(List<? extends Definition> edits, String by) {
        settle();
        List<Definition> changed = edits.stream()
                .map(this::admitted)
                .filter(each -> find(each.id()).filter(each::equals).isEmpty())
                .toList();
        changed.forEach(each -> circle(each).ifPresent(sentence -> {
            throw new IllegalArgumentException(sentence);
        }));
        List<Definition> leading = changed.stream().filter(this::leadsElsewhere).toList();
        change(() -> transaction.executeWithoutResult(status -> changed.forEach(each -> tables.insertDraft(new Draft(
                each.id(), nextRevision(each.id()), each.kind(), each.name(), Optional.of(each), by, clock.now())))));
        leading.forEach(each -> noteConnection(each, by));
        return changed.size();
    }

    /** Whether a draft would connect to another place than what it replaces. */
    private boolean leadsElsewhere(Definition next) {
        String place = engine.place(next);
        return place != null
                && !place.isEmpty()
                && !find(next.id()).map(engine::place).equals(Optional.of(place));
    }

    private void noteConnection(Definition drafted, String by) {
        audit.note(
                by,
                "drafted a connection",
                drafted.kind().words() + " " + drafted.name() + ": " + engine.place(drafted));
    }

    /**
     * Drafts everything that differs from an earlier release, so that it can be reviewed and released as ever.
     *
     * @return how many things differ
     * @throws IllegalArgumentException with a sentence, where there are drafts that would be mixed in, or no such release
     */
    public synchronized int rollBack(long release, String by) {
        if (!tables.isRelease(release)) {
            throw new IllegalArgumentException("There is no release " + release + ".");
        }
        if (!drafts().isEmpty()) {
            throw new IllegalArgumentException(
                    "There are unreleased changes. Release them or discard them first, so that they are not mixed with what is rolled back.");
        }
        List<Definition> then = tables.asOf(release);
        Set<String> ids = then.stream().map(Definition::id).collect(Collectors.toSet());
        int differ = editAll(then, by);
        for (Definition since : live()) {
            if (!ids.contains(since.id())) {
                remove(since.id(), by);
                differ++;
            }
        }
        audit.note(by, "rolled back", "to release " + release + ", as drafts: " + differ + " things");
        return differ;
    }

    /** A sentence where the edit would make formula tags go round in a circle. */
    public Optional<String> circle(Definition edited) {
        if (!(edited instanceof SourceDefinition source) || !source.link().equals(FormulaTag.LINK)) {
            return Optional.empty();
        }
        Map<TagRef, TagInfo> formulas = new LinkedHashMap<>();
        Stream.concat(
                        all(SourceDefinition.class).stream()
                                .filter(other -> !other.id().equals(edited.id())),
                        Stream.of(source))
                .filter(each -> each.link().equals(FormulaTag.LINK))
                .forEach(each -> each.tags().forEach(tag -> formulas.put(new TagRef(each.id(), tag.address()), tag)));
        return FormulaTag.circle(formulas);
    }

    /**
     * Drafts an edit of a recorder as it stands now; for small changes that do not depend on the rest. The edits of one page
     * may follow each other faster than the page does; those of another window of the same person are another's.
     *
     * @throws EditedByOther also where an edit of the page itself gave things other places that the page had not drawn yet:
     *     edits name columns, Whens and Wheres by their place
     */
    public synchronized void editRecorder(String id, int seen, String by, UnaryOperator<RecorderDefinition> change) {
        String window = acting.page();
        boolean ownPage = !window.isEmpty() && (by + " " + window).equals(editedFrom.get(id));
        if (ownPage && seen < rearranged.getOrDefault(id, 0)) {
            throw new EditedByOther("Your edit before this one");
        }
        int known = ownPage ? revision(id) : seen;
        RecorderDefinition before = find(RecorderDefinition.class, id).orElseThrow();
        RecorderDefinition after = change.apply(before);
        edit(after, known, by);
        if (Places.rearranged(before, after)) {
            rearranged.put(id, revision(id));
        }
    }

    /** Drafts a removal; a thing that was never released just goes. */
    public synchronized void remove(String id, String by) {
        Definition definition = find(id).orElseThrow();
        if (live(id).isEmpty()) {
            discard(id, by);
            return;
        }
        put(new Draft(id, nextRevision(id), definition.kind(), definition.name(), Optional.empty(), by, clock.now()));
    }

    /**
     * Stands for what an editor sees of a thing: grows with each edit, also over releases and what was discarded, so that no
     * two states of it have the same.
     */
    public int revision(String id) {
        return draft(id)
                .map(Draft::revision)
                .orElseGet(() -> Math.max(
                        (int) Math.min(state.changedIn().getOrDefault(id, 0L), MOST_RELEASES) * REVISIONS,
                        retired.getOrDefault(id, 0)));
    }

    private int nextRevision(String id) {
        return Math.max(revision(id), retired.getOrDefault(id, 0)) + 1;
    }

    /** Its number is not given out again. */
    private void retire(String id) {
        retired.merge(id, revision(id) + 1, Math::max);
    }

    private void put(Draft draft) {
        try {
            editedFrom.put(draft.id(), draft.by() + " " + acting.page());
            change(() -> tables.insertDraft(draft));
        } catch (DuplicateKeyException other) {
            throw new EditedByOther("Somebody");
        }
    }

    /** Changes what our own database holds and follows it; where it gives no answer, it is asked again when it does. */
    private void change(Runnable tablesToo) {
        try {
            tablesToo.run();
            become(List.copyOf(state.live().values()), tables.drafts(), state.release(), state.changedIn());
        } catch (DataAccessException | TransactionException unanswered) {
            unsure = true;
            throw unanswered;
        }
        engine.look(sources());
    }

    /** Takes back the newest edit. Whether a source may be written to is not taken back by this. */
    public synchronized void undo(String id, String by) {
        draft(id).ifPresent(draft -> {
            boolean writing = writes(id);
            retire(id);
            change(() -> tables.deleteDraft(id, draft.revision()));
            if (!writing && writes(id) && draft(id).isPresent()) {
                edit(find(SourceDefinition.class, id).orElseThrow().withWriting(false), by, revision(id));
            }
        });
    }

    private boolean writes(String id) {
        return find(SourceDefinition.class, id)
                .filter(SourceDefinition::writing)
                .isPresent();
    }

    /** Throws away all edits of a thing. */
    public synchronized void discard(String id, String by) {
        draft(id).ifPresent(draft -> change(() -> thrownAway(draft, by)));
    }

    /** Throws away all edits of all things; how many things. */
    public synchronized int discardAll(String by) {
        return discardAll(state.drafts().keySet(), by);
    }

    /** Throws away all edits of these things; how many things. */
    public synchronized int discardAll(Set<String> things, String by) {
        List<Draft> all =
                drafts().stream().filter(draft -> things.contains(draft.id())).toList();
        if (!all.isEmpty()) {
            change(() -> all.forEach(draft -> thrownAway(draft, by)));
        }
        return all.size();
    }

    private void thrownAway(Draft draft, String by) {
        retire(draft.id());
        tables.deleteDrafts(draft.id());
        audit.note(by, "discarded a draft", draft.kind().words() + " " + draft.name());
    }

    /** Stands for exactly the drafts there are now; another edit of any of them makes it another text. */
    public String fingerprint() {
        return drafts().stream()
                .map(draft -> draft.id() + "." + draft.revision())
                .sorted()
                .collect(Collectors.joining(" "));
    }

    /** Makes all drafts live together: see {@link #release(Set, String, String)}. */
    public synchronized void releaseAll(String seen, String by) {
        release(state.drafts().keySet(), seen, by);
    }

    /**
     * Makes the drafts of these things live together. What they need goes with them: see {@link #withNeeded}.
     *
     * @param seen the {@link #fingerprint} of what was reviewed
     * @throws EditedByOther where the drafts are not those any more; nothing is released then
     */
    public synchronized void release(Set<String> things, String seen, String by) {
        settle();
        if (!seen.equals(fingerprint())) {
            throw new EditedByOther("Somebody");
        }
        Set<String> ids = withNeeded(things);
        List<Difference> differences = differences(ids);
        List<String> summary = new ArrayList<>();
        differences.forEach(difference -> summary.add(difference.thing().kind().words() + " "
                + difference.thing().name() + ": " + difference.change().words().toLowerCase(java.util.Locale.ROOT)
                + ". " + String.join(" ", difference.sentences())));
        List<Draft> released =
                drafts().stream().filter(draft -> ids.contains(draft.id())).toList();
        List<Draft> left =
                drafts().stream().filter(draft -> !ids.contains(draft.id())).toList();
        List<Definition> live = after(ids);
        long before = state.release();
        long release;
        try {
            release = transaction.execute(status -> tables.insertRelease(released, summary, by, clock.now()));
        } catch (DataAccessException | TransactionException unanswered) {
            // The database may have taken it and not been able to say so: what it holds now is what is released.
            unsure = true;
            settle();
            if (state.release() == before) {
                throw unanswered;
            }
            return;
        }
        // It is released: whatever fails from here on, what runs is what was released.
        Map<String, Long> changed = new HashMap<>(state.changedIn());
        released.forEach(draft -> changed.put(draft.id(), release));
        releasedBy.put(release, new DefinitionTables.By(by, clock.now()));
        become(live, left, release, changed);
        engine.changeover(state.live().values(), sources());
        writeFile();
        try {
            audit.note(by, "released", "release " + release + ": " + differences.size() + " things");
        } catch (DataAccessException cannot) {
            LOG.error("Release {} by {} could not be noted in the audit.", release, by, cannot);
        }
    }

    /** Drafts another one of each that is the same, under a name that is free, all or none; those that there is only ever one of are passed over. */
    public synchronized List<Definition> duplicate(List<String> ids, String by) {
        List<Definition> copies = new ArrayList<>();
        for (String id : ids) {
            Definition of = find(id).orElseThrow();
            of.kind()
                    .duplicating(of, newId(), freeName(of.getClass(), "", of.name()))
                    .ifPresent(copy -> copies.add(engine.copied(of, copy)));
        }
        editAll(copies, by);
        return copies;
    }

    /** Drafts the removal of each, all or none; what was never released just goes. */
    public synchronized void removeAll(List<String> ids, String by) {
        settle();
        List<Definition> all = ids.stream().map(id -> find(id).orElseThrow()).toList();
        change(() -> transaction.executeWithoutResult(status -> {
            for (Definition each : all) {
                Optional<Draft> draft = draft(each.id());
                if (live(each.id()).isEmpty()) {
                    draft.ifPresent(never -> thrownAway(never, by));
                } else {
                    tables.insertDraft(new Draft(
                            each.id(),
                            nextRevision(each.id()),
                            each.kind(),
                            each.name(),
                            Optional.empty(),
                            by,
                            clock.now()));
                }
            }
        }));
    }

    /** The name, or the name with a number where it is taken. */
    public String freeName(Class<? extends Definition> type, String id, String wanted) {
        String name = wanted;
        for (int n = 2; !nameProblem(type, id, name).isEmpty(); n++) {
            String number = " " + n;
            name = wanted.substring(0, Math.min(wanted.length(), LONGEST_NAME - number.length())) + number;
        }
        return name;
    }

    /** Who released the thing last, and when; empty for what was never released, or where that is not known here. */
    public Optional<DefinitionTables.By> released(String id) {
        return Optional.ofNullable(state.changedIn().get(id))
                .flatMap(release -> Optional.ofNullable(releasedBy.get(release)));
    }

    /** Things that name the given one: recorders, equipment, formula tags of other sources. */
    public List<Definition> users(String id) {
        return drafted().stream()
                .filter(definition ->
                        !definition.id().equals(id) && definition.kind().names(definition, id))
                .sorted(Comparator.comparing(Definition::name, String.CASE_INSENSITIVE_ORDER))
                .toList();
    }

    /** Things that name the tag. */
    public List<Definition> users(TagRef tag) {
        return drafted().stream()
                .filter(definition -> definition.kind().tagsOf(definition).contains(tag))
                .toList();
    }

    /** Counts the states there have been; another number means that something may have changed. */
    public long version() {
        return version;
    }

    /** The destination as drafted, else as live. */
    public Optional<DestinationDefinition> destination(String id) {
        return find(DestinationDefinition.class, id);
    }
}
