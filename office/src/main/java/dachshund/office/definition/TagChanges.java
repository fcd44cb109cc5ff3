package dachshund.office.definition;

import dachshund.core.definition.Definition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.engine.thread.Threads;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.stream.Collectors;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * Who changed what a tag is (its name, unit, range, labels, how it is read) last, and when: as drafted, else as released. What was
 * released is looked through behind the pages, after a start and after each release. From any thread.
 */
@Component
public class TagChanges {

    private static final Logger LOG = LoggerFactory.getLogger(TagChanges.class);
    private static final long TRIED_AGAIN_NANOS = 30_000_000_000L;

    private final Definitions definitions;
    private final DefinitionTables tables;
    private final AtomicBoolean reading = new AtomicBoolean();
    private volatile Released released = new Released(0, Map.of(), Map.of(), Set.of());
    private volatile long notBefore = System.nanoTime();

    /**
     * A change of what a tag is.
     *
     * @param by      who drafted it, or released it
     * @param drafted whether it is not released yet
     */
    public record Change(String by, Instant at, boolean drafted) {}

    /**
     * @param upTo  the last release that was looked through
     * @param lists name of the list that each source has since then
     */
    private record Released(long upTo, Map<String, String> lists, Map<TagRef, Change> last, Set<String> people) {}

    TagChanges(Definitions definitions, DefinitionTables tables) {
        this.definitions = definitions;
        this.tables = tables;
    }

    /** Another number each time when something else is known. */
    public long version() {
        return released.upTo();
    }

    /** Whether all that was released is known by now; what is not is read meanwhile. */
    public boolean known() {
        boolean all = released.upTo() >= definitions.release();
        if (!all && System.nanoTime() - notBefore >= 0 && reading.compareAndSet(false, true)) {
            Threads.once("tag-changes", this::read);
        }
        return all;
    }

    /** Empty where that is not known, or not yet. */
    public Optional<Change> released(TagRef tag) {
        return Optional.ofNullable(released.last().get(tag));
    }

    /** Tags of a source that are drafted otherwise than they are live. */
    public Map<TagRef, Change> drafted(String source) {
        Draft draft = definitions.draft(source).orElse(null);
        if (draft == null) {
            return Map.of();
        }
        Map<TagRef, Change> all = new HashMap<>();
        differences(
                source,
                tagsOf(definitions.live(source)),
                tagsOf(draft.definition()),
                new Change(draft.by(), draft.at(), true),
                all);
        return all;
    }

    private static List<TagInfo> tagsOf(Optional<Definition> of) {
        return of.filter(SourceDefinition.class::isInstance)
                .map(each -> ((SourceDefinition) each).tags())
                .orElse(List.of());
    }

    private static void differences(
            String source, List<TagInfo> before, List<TagInfo> now, Change change, Map<TagRef, Change> into) {
        Map<String, TagInfo> known = new HashMap<>();
        before.forEach(tag -> known.put(tag.address(), tag));
        now.stream()
                .filter(tag -> !tag.equals(known.get(tag.address())))
                .forEach(tag -> into.put(new TagRef(source, tag.address()), change));
    }

    private void read() {
        try {
            Released before = released;
            Map<String, String> lists = new HashMap<>(before.lists());
            Map<TagRef, Change> last = new HashMap<>(before.last());
            long upTo = tables.newestRelease();
            for (DefinitionTables.TagsReleased each : tables.tagsReleased(before.upTo(), upTo)) {
                String was = lists.getOrDefault(each.source(), "");
                if (!was.equals(each.list())) {
                    differences(
                            each.source(),
                            tables.tags(was),
                            tables.tags(each.list()),
                            new Change(each.by().who(), each.by().at(), false),
                            last);
                    lists.put(each.source(), each.list());
                }
            }
            Set<String> people = last.values().stream().map(Change::by).collect(Collectors.toSet());
            released = new Released(upTo, lists, last, people);
        } catch (RuntimeException away) {
            LOG.warn("Who changed tags cannot be read now: {}", away.getMessage());
            notBefore = System.nanoTime() + TRIED_AGAIN_NANOS;
        } finally {
            reading.set(false);
        }
    }

    /** Who has changed any of them. */
    public List<String> people() {
        Set<String> all = new TreeSet<>(released.people());
        definitions.drafts().stream()
                .filter(draft -> draft.definition()
                        .filter(SourceDefinition.class::isInstance)
                        .isPresent())
                .forEach(draft -> all.add(draft.by()));
        return List.copyOf(all);
    }
}
