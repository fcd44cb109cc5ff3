package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;

/**
 * One state of everything that is designed: what is live and what is drafted. Immutable; an edit gives the next state, which
 * differs from this one by what was edited. What follows from a state is worked out once, when it is first asked for.
 */
final class Designed {

    static final Designed NOTHING = new Designed(Map.of(), Map.of(), 0, Map.of(), Map.of(), Map.of());

    private final Map<String, Definition> live;
    private final Map<String, Draft> drafts;
    private final long release;
    private final Map<String, Long> changedIn;
    /** As drafted, else as live; what is drafted to be removed is not in it. */
    private final Map<String, Definition> drafted;
    /** By source, the tags that it has as drafted, by address. */
    private final Map<String, Map<String, TagInfo>> tags;

    private final Map<Class<?>, List<?>> byType = new ConcurrentHashMap<>();

    /** What a definition names. Looked up by object: an edit makes another one. */
    private record Names(Definition of, Set<String> things, Set<TagRef> tags) {}

    /** Handed on from state to state; an entry counts while its definition is still the one of that id. */
    private final Map<String, Names> names;

    private Designed(
            Map<String, Definition> live,
            Map<String, Draft> drafts,
            long release,
            Map<String, Long> changedIn,
            Map<String, Map<String, TagInfo>> tags,
            Map<String, Names> names) {
        this.live = live;
        this.drafts = drafts;
        this.release = release;
        this.changedIn = changedIn;
        this.tags = tags;
        this.names = names;
        this.drafted = new HashMap<>(live);
        drafts.values().forEach(draft -> put(drafted, draft));
    }

    /** Everything as it is read from where it is kept. */
    static Designed of(
            Collection<Definition> live, Collection<Draft> drafts, long release, Map<String, Long> changedIn) {
        Map<String, Definition> liveById = new HashMap<>();
        live.forEach(definition -> liveById.put(definition.id(), definition));
        Map<String, Draft> draftsById = new LinkedHashMap<>();
        drafts.forEach(draft -> draftsById.put(draft.id(), draft));
        Designed all = new Designed(
                liveById, draftsById, release, Map.copyOf(changedIn), new HashMap<>(), new ConcurrentHashMap<>());
        all.drafted.values().forEach(all::takeTags);
        return all;
    }

    /** With these drafts, each instead of what was drafted of the same thing before, and without drafts of these. */
    Designed edited(Collection<Draft> edits, Collection<String> discarded) {
        Map<String, Draft> next = new LinkedHashMap<>(drafts);
        discarded.forEach(next::remove);
        edits.forEach(draft -> {
            next.remove(draft.id());
            next.put(draft.id(), draft);
        });
        return next(live, next, release, changedIn);
    }

    /** After a release of these drafts. */
    Designed released(Set<String> ids, long made) {
        Map<String, Definition> then = new HashMap<>(live);
        Map<String, Draft> left = new LinkedHashMap<>(drafts);
        Map<String, Long> changed = new HashMap<>(changedIn);
        for (String id : ids) {
            put(then, left.remove(id));
            changed.put(id, made);
        }
        return next(then, left, made, Map.copyOf(changed));
    }

    private Designed next(Map<String, Definition> then, Map<String, Draft> left, long made, Map<String, Long> changed) {
        Designed next = new Designed(then, left, made, changed, new HashMap<>(tags), names);
        next.drafted.forEach((id, definition) -> {
            if (definition != drafted.get(id)) {
                next.takeTags(definition);
            }
        });
        next.tags.keySet().retainAll(next.drafted.keySet());
        next.names.keySet().retainAll(next.drafted.keySet());
        return next;
    }

    private static void put(Map<String, Definition> all, Draft draft) {
        draft.definition().ifPresentOrElse(definition -> all.put(draft.id(), definition), () -> all.remove(draft.id()));
    }

    private void takeTags(Definition definition) {
        if (definition instanceof SourceDefinition source) {
            Map<String, TagInfo> byAddress = new HashMap<>();
            source.tags().forEach(tag -> byAddress.put(tag.address(), tag));
            tags.put(source.id(), byAddress);
        }
    }

    Map<String, Definition> live() {
        return live;
    }

    /** In the order in which they were edited last. */
    Map<String, Draft> drafts() {
        return drafts;
    }

    Map<String, Definition> drafted() {
        return drafted;
    }

    /** Id of the release that is live, 0 before the first. */
    long release() {
        return release;
    }

    /** In which release each thing was changed last. */
    Map<String, Long> changedIn() {
        return changedIn;
    }

    /** Everything as it would be if the drafts of these things were released, and no others. */
    List<Definition> after(Set<String> released) {
        Map<String, Definition> all = new HashMap<>(live);
        drafts.values().stream().filter(draft -> released.contains(draft.id())).forEach(draft -> put(all, draft));
        return List.copyOf(all.values());
    }

    Optional<TagInfo> tag(TagRef tag) {
        return Optional.ofNullable(tags.getOrDefault(tag.source(), Map.of()).get(tag.address()));
    }

    /** All of one type as drafted, by name. */
    @SuppressWarnings("unchecked") // the list of a type was made of that type
    <T extends Definition> List<T> all(Class<T> type) {
        return (List<T>) byType.computeIfAbsent(type, each -> drafted.values().stream()
                .filter(each::isInstance)
                .sorted(Comparator.comparing(Definition::name, String.CASE_INSENSITIVE_ORDER))
                .toList());
    }

    /** Things as drafted that name this one, or one of its tags, by name. */
    List<Definition> users(String id) {
        return using(names -> names.things().contains(id)).stream()
                .filter(user -> !user.id().equals(id))
                .toList();
    }

    /** Things as drafted that name the tag, by name. */
    List<Definition> users(TagRef tag) {
        return using(names -> names.tags().contains(tag));
    }

    private List<Definition> using(java.util.function.Predicate<Names> uses) {
        return drafted.values().stream()
                .filter(each -> uses.test(names(each)))
                .sorted(Comparator.comparing(Definition::name, String.CASE_INSENSITIVE_ORDER))
                .toList();
    }

    private Names names(Definition definition) {
        Names known = names.get(definition.id());
        if (known != null && known.of() == definition) {
            return known;
        }
        Set<TagRef> tagsOf = definition.kind().tagsOf(definition);
        Set<String> things = tagsOf.stream().map(TagRef::source).collect(Collectors.toSet());
        things.addAll(definition.kind().thingsOf(definition));
        Names found = new Names(definition, things, tagsOf);
        names.put(definition.id(), found);
        return found;
    }
}
