package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.formula.FormulaTag;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PlantClock;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import dachshund.office.filing.Filings;
import dachshund.office.person.Acting;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.dao.DuplicateKeyException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Edits of what is designed, each a revision that can be taken back until it is released. Kept in our own database first;
 * while that is away nothing can be edited.
 */
@Component
public class Drafts {

    /** Revisions between two releases. */
    private static final int REVISIONS = 10_000;

    private static final long MOST_RELEASES = Integer.MAX_VALUE / REVISIONS - 1;

    private final Definitions definitions;
    private final Releases releases;
    private final DefinitionTables tables;
    private final Engine engine;
    private final Audit audit;
    private final Filings filings;
    private final Acting acting;
    private final PlantClock clock;
    private final TransactionTemplate transaction;
    /** From which page of whom a thing was edited last. */
    private final Map<String, String> editedFrom = new ConcurrentHashMap<>();
    /** By recorder, the revision in which its columns, Whens or Wheres last got other places. */
    private final Map<String, Integer> rearranged = new ConcurrentHashMap<>();
    /** Revisions up to which were given out once and are not any more. */
    private final Map<String, Integer> retired = new ConcurrentHashMap<>();

    Drafts(
            Definitions definitions,
            Releases releases,
            DefinitionTables tables,
            Engine engine,
            Audit audit,
            Filings filings,
            Acting acting,
            PlantClock clock,
            TransactionTemplate transaction) {
        this.definitions = definitions;
        this.releases = releases;
        this.tables = tables;
        this.engine = engine;
        this.audit = audit;
        this.filings = filings;
        this.acting = acting;
        this.clock = clock;
        this.transaction = transaction;
    }

    /**
     * Drafts an edit.
     *
     * @param seen the revision that the editor had before them, 0 where nothing was drafted
     * @throws EditedByOther where somebody drafted another edit since
     */
    public void edit(Definition brought, int seen, String by) {
        synchronized (definitions) {
            edit(admitted(brought), by, seen);
        }
    }

    /** What may be stored of what somebody brings, by whatever way: see {@link #switchWriting}, and secrets are sealed. */
    private Definition admitted(Definition brought) {
        Definition sealed = engine.sealed(brought);
        return sealed instanceof SourceDefinition source ? source.withWriting(writes(source.id())) : sealed;
    }

    private boolean writes(String id) {
        return definitions
                .find(SourceDefinition.class, id)
                .filter(SourceDefinition::writing)
                .isPresent();
    }

    /** Drafts whether a source may be written to. Whoever calls it has seen to it that this person may decide that. */
    public void switchWriting(String id, boolean on, String by) {
        synchronized (definitions) {
            SourceDefinition source =
                    definitions.find(SourceDefinition.class, id).orElseThrow();
            edit(source.withWriting(on), by, revision(id));
            audit.note(by, on ? "switched writing on" : "switched writing off", source.name());
        }
    }

    private void edit(Definition definition, String by, int seen) {
        releases.settle();
        if (revision(definition.id()) != seen) {
            throw new EditedByOther(definitions
                    .draft(definition.id())
                    .map(Draft::by)
                    .map(who -> who.equals(by) ? "You, in another window or before this page was loaded," : who)
                    .orElse("Somebody"));
        }
        if (definitions.find(definition.id()).filter(definition::equals).isPresent()) {
            return;
        }
        circle(definition).ifPresent(sentence -> {
            throw new IllegalArgumentException(sentence);
        });
        boolean elsewhere = leadsElsewhere(definition);
        try {
            take(List.of(draft(definition, Optional.of(definition), by)));
        } catch (DuplicateKeyException other) {
            throw new EditedByOther("Somebody");
        }
        if (elsewhere) {
            noteConnection(definition, by);
        }
    }

    /** Drafts edits of sources as they stand now, all or none; a source that is gone is passed over. */
    public int editSources(Map<String, UnaryOperator<SourceDefinition>> changes, String by) {
        synchronized (definitions) {
            return editAll(
                    changes.entrySet().stream()
                            .flatMap(each -> definitions.find(SourceDefinition.class, each.getKey()).stream()
                                    .map(each.getValue()))
                            .toList(),
                    by);
        }
    }

    /** Drafts several edits together, all or none. What is equal to what is there is no edit. */
    public int editAll(List<? extends Definition> edits, String by) {
        synchronized (definitions) {
            releases.settle();
            List<Definition> changed = edits.stream()
                    .map(this::admitted)
                    .filter(each ->
                            definitions.find(each.id()).filter(each::equals).isEmpty())
                    .toList();
            changed.forEach(each -> circle(each).ifPresent(sentence -> {
                throw new IllegalArgumentException(sentence);
            }));
            List<Definition> leading =
                    changed.stream().filter(this::leadsElsewhere).toList();
            take(changed.stream()
                    .map(each -> draft(each, Optional.of(each), by))
                    .toList());
            leading.forEach(each -> noteConnection(each, by));
            return changed.size();
        }
    }

    /** Whether a draft would connect to another place than what it replaces. */
    private boolean leadsElsewhere(Definition next) {
        String place = engine.place(next);
        return place != null
                && !place.isEmpty()
                && !definitions.find(next.id()).map(engine::place).equals(Optional.of(place));
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
    public int rollBack(long release, String by) {
        synchronized (definitions) {
            if (!tables.isRelease(release)) {
                throw new IllegalArgumentException("There is no release " + release + ".");
            }
            if (!definitions.drafts().isEmpty()) {
                throw new IllegalArgumentException(
                        "There are unreleased changes. Release them or discard them first, so that they are not mixed with what is rolled back.");
            }
            List<Definition> then = tables.asOf(release);
            Set<String> ids = then.stream().map(Definition::id).collect(Collectors.toSet());
            int differ = editAll(then, by);
            List<String> since = definitions.live().stream()
                    .map(Definition::id)
                    .filter(id -> !ids.contains(id))
                    .toList();
            removeAll(since, by);
            differ += since.size();
            audit.note(by, "rolled back", "to release " + release + ", as drafts: " + differ + " things");
            return differ;
        }
    }

    /** A sentence where the edit would make formula tags go round in a circle. */
    private Optional<String> circle(Definition edited) {
        if (!(edited instanceof SourceDefinition source) || !source.link().equals(FormulaTag.LINK)) {
            return Optional.empty();
        }
        Map<TagRef, TagInfo> formulas = new LinkedHashMap<>();
        Stream.concat(
                        definitions.all(SourceDefinition.class).stream()
                                .filter(other -> !other.id().equals(edited.id())),
                        Stream.of(source))
                .filter(each -> each.link().equals(FormulaTag.LINK))
                .forEach(each -> each.tags().forEach(tag -> formulas.put(new TagRef(each.id(), tag.address()), tag)));
        return FormulaTag.circle(formulas);
    }

    /**
     * Drafts an edit of a thing as it stands now; for small changes that do not depend on the rest. The edits of one page
     * may follow each other faster than the page does; those of another window of the same person are another's.
     *
     * @throws EditedByOther also where an edit of the page itself gave things other places that the page had not drawn yet:
     *     edits name columns, Whens, Wheres and steps by their place
     */
    public <D extends Definition> void edit(Class<D> type, String id, int seen, String by, UnaryOperator<D> change) {
        synchronized (definitions) {
            String page = acting.page();
            boolean ownPage = !page.isEmpty() && (by + " " + page).equals(editedFrom.get(id));
            if (ownPage && seen < rearranged.getOrDefault(id, 0)) {
                throw new EditedByOther("Your edit before this one");
            }
            int known = ownPage ? revision(id) : seen;
            D before = definitions.find(type, id).orElseThrow();
            D after = change.apply(before);
            edit(after, known, by);
            if (Places.rearranged(before, after)) {
                rearranged.put(id, revision(id));
            }
        }
    }

    /** Drafts a removal; a thing that was never released just goes. */
    public void remove(String id, String by) {
        removeAll(List.of(id), by);
    }

    /** Drafts the removal of each, all or none; what was never released just goes. */
    public void removeAll(Collection<String> ids, String by) {
        synchronized (definitions) {
            releases.settle();
            List<Definition> all =
                    ids.stream().map(id -> definitions.find(id).orElseThrow()).toList();
            List<Draft> removals = all.stream()
                    .filter(each -> definitions.live(each.id()).isPresent())
                    .map(each -> draft(each, Optional.empty(), by))
                    .toList();
            List<Draft> never = all.stream()
                    .filter(each -> definitions.live(each.id()).isEmpty())
                    .flatMap(each -> definitions.draft(each.id()).stream())
                    .toList();
            try {
                change(removals, never, () -> {
                    removals.forEach(tables::insertDraft);
                    never.forEach(draft -> tables.deleteDrafts(draft.id()));
                });
            } catch (DuplicateKeyException other) {
                throw new EditedByOther("Somebody");
            }
            never.forEach(draft -> noteDiscarded(draft, by));
        }
    }

    /** Drafts another one of each that is the same, filed as it is, under a name that is free, all or none; those that there is only ever one of are passed over. */
    public List<Definition> duplicate(List<String> ids, String by) {
        synchronized (definitions) {
            List<Definition> copies = new ArrayList<>();
            Map<String, String> copiesOf = new LinkedHashMap<>();
            for (String id : ids) {
                Definition of = definitions.find(id).orElseThrow();
                of.kind()
                        .duplicating(of, Definitions.newId(), definitions.freeName(of.getClass(), "", of.name()))
                        .ifPresent(copy -> {
                            copies.add(engine.copied(of, copy));
                            copiesOf.put(copy.id(), of.id());
                        });
            }
            editAll(copies, by);
            copiesOf.forEach((copy, of) -> filings.file(copy, filings.of(of)));
            return copies;
        }
    }

    /**
     * Stands for what an editor sees of a thing: grows with each edit, also over releases and what was discarded, so that no
     * two states of it have the same.
     */
    public int revision(String id) {
        return definitions
                .draft(id)
                .map(Draft::revision)
                .orElseGet(() -> Math.max(
                        (int) Math.min(definitions.now().changedIn().getOrDefault(id, 0L), MOST_RELEASES) * REVISIONS,
                        retired.getOrDefault(id, 0)));
    }

    private Draft draft(Definition of, Optional<Definition> edited, String by) {
        int next = Math.max(revision(of.id()), retired.getOrDefault(of.id(), 0)) + 1;
        return new Draft(of.id(), next, of.kind(), of.name(), edited, by, clock.now());
    }

    /** Its number is not given out again. */
    private void retire(String id) {
        retired.merge(id, revision(id) + 1, Math::max);
    }

    private void take(List<Draft> edits) {
        String from = acting.page();
        edits.forEach(draft -> editedFrom.put(draft.id(), draft.by() + " " + from));
        change(edits, List.of(), () -> edits.forEach(tables::insertDraft));
    }

    /** Changes what our own database holds, all or nothing, and then what is known here. */
    private void change(List<Draft> edits, List<Draft> discarded, Runnable tablesToo) {
        if (edits.isEmpty() && discarded.isEmpty()) {
            return;
        }
        discarded.forEach(draft -> retire(draft.id()));
        releases.keeping(() -> transaction.executeWithoutResult(status -> tablesToo.run()));
        releases.drafted(definitions
                .now()
                .edited(edits, discarded.stream().map(Draft::id).toList()));
    }

    /** Takes back the newest edit. Whether a source may be written to is not taken back by this. */
    public void undo(String id, String by) {
        synchronized (definitions) {
            Optional<Draft> newest = definitions.draft(id);
            if (newest.isEmpty()) {
                return;
            }
            boolean writing = writes(id);
            retire(id);
            Optional<Draft> before = releases.keeping(() -> transaction.execute(status -> {
                tables.deleteDraft(id, newest.get().revision());
                return tables.draft(id);
            }));
            releases.drafted(
                    definitions.now().edited(before.stream().toList(), before.isEmpty() ? List.of(id) : List.of()));
            if (!writing && writes(id) && before.isPresent()) {
                edit(definitions.find(SourceDefinition.class, id).orElseThrow().withWriting(false), by, revision(id));
            }
        }
    }

    /** Throws away all edits of a thing. */
    public void discard(String id, String by) {
        discardAll(Set.of(id), by);
    }

    /** Throws away all edits of all things; how many things. */
    public int discardAll(String by) {
        return discardAll(definitions.now().drafts().keySet(), by);
    }

    /** Throws away all edits of these things; how many things. */
    public int discardAll(Set<String> things, String by) {
        synchronized (definitions) {
            List<Draft> all = definitions.drafts().stream()
                    .filter(draft -> things.contains(draft.id()))
                    .toList();
            change(List.of(), all, () -> all.forEach(draft -> tables.deleteDrafts(draft.id())));
            all.forEach(draft -> noteDiscarded(draft, by));
            return all.size();
        }
    }

    private void noteDiscarded(Draft draft, String by) {
        audit.note(by, "discarded a draft", draft.kind().words() + " " + draft.name());
    }
}
