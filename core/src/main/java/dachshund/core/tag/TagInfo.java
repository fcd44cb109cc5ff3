package dachshund.core.tag;

import java.time.Duration;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Collectors;

/**
 * What is known of a tag apart from its value. Facts come from the source where it has them; a person may replace some
 * of them, and then {@code original} keeps what the source says.
 *
 * @param address       its address in its source; stays the same for the life of the tag
 * @param path          the folders above it in its source, separated by " / "; may be empty
 * @param name          its own name
 * @param kind          sort of value
 * @param unit          engineering unit; empty where none
 * @param description   may be empty
 * @param writable      whether the source says that it can be written
 * @param range         the values of normal work, in its unit
 * @param decimals      digits after the point to show, 0 to 10
 * @param changesWithin a tag that did not change for so long is stale; absent where it may rest
 * @param labels        words to find it by
 * @param how           how it is read, in the terms of its protocol: register, topic, formula; empty where the address says it all
 * @param original      facts as the source gives them, by name, of those that a person replaced
 */
public record TagInfo(
        String address,
        String path,
        String name,
        DataKind kind,
        String unit,
        String description,
        boolean writable,
        Optional<Range> range,
        OptionalInt decimals,
        Optional<Duration> changesWithin,
        List<String> labels,
        Map<String, String> how,
        Map<String, String> original) {

    /** In {@link #how}, what the source says that the values stand for: lines such as 1=run. */
    public static final String STATES = "states";

    public TagInfo {
        labels = List.copyOf(labels);
        how = Map.copyOf(how);
        original = Map.copyOf(original);
    }

    /** A tag with the most common facts. */
    public TagInfo(
            String address,
            String path,
            String name,
            DataKind kind,
            String unit,
            String description,
            boolean writable) {
        this(
                address,
                path,
                name,
                kind,
                unit,
                description,
                writable,
                Optional.empty(),
                OptionalInt.empty(),
                Optional.empty(),
                List.of(),
                Map.of(),
                Map.of());
    }

    /**
     * An address that no tag has, for one that is described by a person. It is drawn by chance, so that it was never that of a
     * tag that is gone: nothing of what was kept or filed of that one is taken for the new one's.
     */
    public static String freeAddress(Collection<TagInfo> tags) {
        Set<String> taken = tags.stream().map(TagInfo::address).collect(Collectors.toSet());
        String address;
        do {
            address = "t" + UUID.randomUUID().toString().substring(0, 8);
        } while (taken.contains(address));
        return address;
    }

    /** Words for its values as the source gives them, lines such as 1=run; empty where it says none. */
    public String states() {
        return how.getOrDefault(STATES, "");
    }

    /** What the source says that a value stands for. */
    public Optional<String> state(String value) {
        return states().lines()
                .filter(line -> line.startsWith(value + "="))
                .map(line -> line.substring(value.length() + 1))
                .findFirst();
    }

    /** Path and name together, as shown in lists. */
    public String fullName() {
        return path.isEmpty() ? name : path + " / " + name;
    }

    /** Another tag that is described alike. */
    public TagInfo named(String otherAddress, String otherName) {
        return new TagInfo(
                otherAddress,
                path,
                otherName,
                kind,
                unit,
                description,
                writable,
                range,
                decimals,
                changesWithin,
                labels,
                how,
                original);
    }

    public TagInfo withRange(Optional<Range> other) {
        return new TagInfo(
                address,
                path,
                name,
                kind,
                unit,
                description,
                writable,
                other,
                decimals,
                changesWithin,
                labels,
                how,
                original);
    }

    public TagInfo withHow(Map<String, String> other) {
        return new TagInfo(
                address,
                path,
                name,
                kind,
                unit,
                description,
                writable,
                range,
                decimals,
                changesWithin,
                labels,
                other,
                original);
    }

    /** Facts of a tag that a person may replace, as text by name. */
    public Map<String, String> facts() {
        Map<String, String> facts = new LinkedHashMap<>();
        facts.put("name", name);
        facts.put("description", description);
        facts.put("unit", unit);
        facts.put("range", range.map(Range::words).orElse(""));
        facts.put("decimals", decimals.isPresent() ? Integer.toString(decimals.getAsInt()) : "");
        return facts;
    }

    /**
     * The tag with facts that a person replaced. A fact that is the same again as the source's is not replaced any more.
     *
     * @param facts as {@link #facts}; those that are not named stay
     * @throws IllegalArgumentException with a sentence, where a fact cannot be read
     */
    public TagInfo replaced(Map<String, String> facts) {
        Map<String, String> before = facts();
        Map<String, String> kept = new TreeMap<>(original);
        Map<String, String> next = new TreeMap<>(before);
        facts.forEach((fact, text) -> {
            if (before.containsKey(fact) && !text.strip().equals(before.get(fact))) {
                String source = original.getOrDefault(fact, before.get(fact));
                next.put(fact, text.strip());
                if (text.strip().equals(source)) {
                    kept.remove(fact);
                } else {
                    kept.put(fact, source);
                }
            }
        });
        return with(next, kept);
    }

    private TagInfo with(Map<String, String> facts, Map<String, String> kept) {
        if (facts.get("name").isEmpty() || facts.get("name").length() > 200) {
            throw new IllegalArgumentException("A tag needs a name of up to 200 characters.");
        }
        return new TagInfo(
                address,
                path,
                facts.get("name"),
                kind,
                facts.get("unit"),
                facts.get("description"),
                writable,
                TagFacts.range(facts.get("range")),
                TagFacts.decimals(facts.get("decimals")),
                changesWithin,
                labels,
                how,
                kept);
    }

    /** What the source says now, with what a person replaced, labelled and set before. */
    public TagInfo renewed(TagInfo fromSource) {
        Map<String, String> mine = new TreeMap<>(facts());
        mine.keySet().retainAll(original.keySet());
        TagInfo fresh = new TagInfo(
                address,
                fromSource.path,
                fromSource.name,
                fromSource.kind,
                fromSource.unit,
                fromSource.description,
                fromSource.writable,
                fromSource.range,
                fromSource.decimals,
                changesWithin,
                labels,
                fromSource.how.isEmpty() ? how : fromSource.how,
                Map.of());
        return fresh.replaced(mine);
    }

    /**
     * @param changesWithin see {@link #changesWithin}
     * @param labels see {@link #labels}
     */
    public TagInfo watched(Optional<Duration> changesWithin, List<String> labels) {
        return new TagInfo(
                address,
                path,
                name,
                kind,
                unit,
                description,
                writable,
                range,
                decimals,
                changesWithin,
                labels,
                how,
                original);
    }
}
