package dachshund.office.tag;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.PeriodText;
import dachshund.engine.Engine;
import dachshund.engine.tag.TagTable;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.TagChanges;
import dachshund.office.filing.Filings;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/**
 * Finds tags by words in any order over source, path, name, description, labels and the equipment that maps them. The
 * texts are put together once for each state of the definitions, so that 50,000 tags are searched in milliseconds.
 */
@Component
public class TagFinder {

    private final Definitions definitions;
    private final Filings filings;
    private final Engine engine;
    private final TagChanges changes;
    private volatile Index index = new Index(-1, List.of(), Map.of());

    /**
     * A tag with its source and its place in the tag table.
     *
     * @param machines names of the equipment that is mapped to it
     * @param changed  who changed what it is last, and when; empty where that is not known
     */
    public record FoundTag(
            SourceDefinition source,
            TagInfo info,
            TagTable.Entry entry,
            Set<String> machines,
            Optional<TagChanges.Change> changed,
            String text) {

        /** What is mapped to it, as one text; empty where nothing is. */
        public String equipment() {
            return String.join(", ", machines);
        }

        public TagRef ref() {
            return new TagRef(source.id(), info.address());
        }

        /** The tag as one text for forms: source id, then address. */
        public String key() {
            return source.id() + " " + info.address();
        }
    }

    private record Index(long version, List<FoundTag> all, Map<TagRef, FoundTag> byRef) {}

    /**
     * What is looked for.
     *
     * @param source        id of the source; empty for all
     * @param words         all must appear somewhere; empty finds everything
     * @param kind          sort of value; empty for all
     * @param quality       good, uncertain, bad or stale; empty for all
     * @param changedWithin tags whose value changed so recently
     * @param unit          what they are measured in; empty for all
     * @param equipment     name of what they are mapped to; empty for all, also those of none
     * @param design        which changes of what they are count
     */
    public record Wanted(
            String source,
            String words,
            Optional<DataKind> kind,
            String quality,
            Optional<Duration> changedWithin,
            String unit,
            String equipment,
            Design design) {

        public static Wanted words(String source, String words) {
            return new Wanted(source, words, Optional.empty(), "", Optional.empty(), "", "", Design.ANY);
        }
    }

    /**
     * Changes of what a tag is: its name, unit, range, labels, how it is read.
     *
     * @param within  so recently; empty for whenever
     * @param drafted those alone that are not released yet
     * @param by      by whom; empty for anybody
     */
    public record Design(Optional<Duration> within, boolean drafted, String by) {

        /** Whatever became of them. */
        public static final Design ANY = new Design(Optional.empty(), false, "");

        /** What stands for those that are not released. */
        public static final String DRAFTED = "drafted";

        /**
         * As it is asked for in an address.
         *
         * @param within {@link #DRAFTED}, or a length of time; empty for whenever
         * @throws IllegalArgumentException with a sentence, where it is neither
         */
        public static Design read(String within, String by) {
            boolean drafted = within.equals(DRAFTED);
            return new Design(
                    drafted || within.isEmpty() ? Optional.empty() : Optional.of(PeriodText.read(within)), drafted, by);
        }

        private boolean fits(FoundTag tag, Instant now) {
            if (equals(ANY)) {
                return true;
            }
            return tag.changed()
                    .filter(change -> by.isEmpty() || change.by().equals(by))
                    .filter(change -> !drafted || change.drafted())
                    .filter(change -> within.isEmpty() || !change.at().isBefore(now.minus(within.get())))
                    .isPresent();
        }
    }

    TagFinder(Definitions definitions, Filings filings, Engine engine, TagChanges changes) {
        this.definitions = definitions;
        this.filings = filings;
        this.engine = engine;
        this.changes = changes;
    }

    /** The tag of {@link FoundTag#key}. */
    public static TagRef ref(String key) {
        int space = key.indexOf(' ');
        if (space < 1) {
            throw new IllegalArgumentException("This names no tag: " + key);
        }
        return new TagRef(key.substring(0, space), key.substring(space + 1));
    }

    private Index index() {
        Index present = index;
        changes.known();
        long version = definitions.version() + filings.version() + changes.version();
        if (present.version() == version) {
            return present;
        }
        Map<TagRef, Set<String>> equipment = new HashMap<>();
        definitions
                .all(EquipmentDefinition.class)
                .forEach(each -> each.properties().values().forEach(property -> {
                    if (property instanceof PropertySource.FromTag from) {
                        equipment
                                .computeIfAbsent(from.tag(), none -> new TreeSet<>())
                                .add(each.name());
                    }
                }));
        List<FoundTag> all = new ArrayList<>();
        Map<TagRef, FoundTag> byRef = new HashMap<>();
        for (SourceDefinition source : definitions.all(SourceDefinition.class)) {
            Map<TagRef, TagChanges.Change> drafted = changes.drafted(source.id());
            for (TagInfo tag : source.tags()) {
                TagRef ref = new TagRef(source.id(), tag.address());
                Set<String> machines = equipment.getOrDefault(ref, Set.of());
                String text = (source.name() + " " + tag.path() + " " + tag.name() + " " + tag.description() + " "
                                + String.join(" ", tag.labels()) + " "
                                + String.join(" ", filings.of(source.id()).labels()) + " "
                                + String.join(" ", machines))
                        .toLowerCase(Locale.ROOT);
                FoundTag found = new FoundTag(
                        source,
                        tag,
                        engine.tags().entry(ref),
                        machines,
                        Optional.ofNullable(drafted.get(ref)).or(() -> changes.released(ref)),
                        text);
                all.add(found);
                byRef.put(ref, found);
            }
        }
        Index fresh = new Index(version, all, byRef);
        index = fresh;
        return fresh;
    }

    /** The units that tags of a source have, or of all sources, in their order. */
    public List<String> units(String source) {
        return index().all().stream()
                .filter(tag -> source.isEmpty() || tag.source().id().equals(source))
                .map(tag -> tag.info().unit())
                .filter(unit -> !unit.isEmpty())
                .distinct()
                .sorted()
                .toList();
    }

    /** All tags that have all of the words. */
    public List<FoundTag> find(String source, String words) {
        return find(Wanted.words(source, words));
    }

    public List<FoundTag> find(Wanted wanted) {
        String[] words = Stream.of(wanted.words().toLowerCase(Locale.ROOT).split("\\s+"))
                .filter(word -> !word.isEmpty())
                .toArray(String[]::new);
        Instant now = engine.clock().now();
        List<FoundTag> found = new ArrayList<>();
        for (FoundTag tag : index().all()) {
            if ((wanted.source().isEmpty() || tag.source().id().equals(wanted.source()))
                    && (wanted.kind().isEmpty()
                            || tag.info().kind() == wanted.kind().get())
                    && (wanted.unit().isEmpty() || tag.info().unit().equals(wanted.unit()))
                    && (wanted.equipment().isEmpty() || tag.machines().contains(wanted.equipment()))
                    && has(tag.text(), words)
                    && wanted.design().fits(tag, now)
                    && stands(tag, wanted, now)) {
                found.add(tag);
            }
        }
        return found;
    }

    /** Those first whose own name says least beyond what was asked for: with "outlet temperature" that tag before its set point. */
    public static List<FoundTag> closestFirst(List<FoundTag> found, String words) {
        Set<String> asked =
                Stream.of(words.toLowerCase(Locale.ROOT).strip().split("\\s+")).collect(Collectors.toSet());
        return found.stream()
                .sorted(Comparator.comparingLong(tag -> Stream.of(
                                tag.info().name().toLowerCase(Locale.ROOT).split("\\s+"))
                        .filter(word -> !asked.contains(word))
                        .count()))
                .toList();
    }

    private static boolean has(String text, String[] words) {
        for (String word : words) {
            if (!text.contains(word)) {
                return false;
            }
        }
        return true;
    }

    private static boolean stands(FoundTag tag, Wanted wanted, Instant now) {
        if (wanted.changedWithin().isPresent()
                && tag.entry()
                        .changedAt()
                        .isBefore(now.minus(wanted.changedWithin().get()))) {
            return false;
        }
        Quality.Grade grade = tag.entry().value().quality().grade();
        return switch (wanted.quality()) {
            case "good" -> grade == Quality.Grade.GOOD;
            case "uncertain" -> grade == Quality.Grade.UNCERTAIN;
            case "bad" -> grade == Quality.Grade.BAD;
            case "stale" -> stale(tag, now);
            default -> true;
        };
    }

    /** Whether a tag should have changed by now and did not. */
    public static boolean stale(FoundTag tag, Instant now) {
        return tag.info().changesWithin().isPresent()
                && tag.entry().value().arrived()
                && tag.entry()
                        .changedAt()
                        .isBefore(now.minus(tag.info().changesWithin().get()));
    }

    /** The tag, as drafted or live. */
    public Optional<FoundTag> find(TagRef ref) {
        return Optional.ofNullable(index().byRef().get(ref));
    }
}
