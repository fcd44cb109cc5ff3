package dachshund.core.keep;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/**
 * Which rule keeps which tag. A tag is kept once: by the rule that ticks it before those that only fit it, and among these by
 * the first one by name.
 */
public final class Assigned {

    private final Map<String, List<Tag>> byRule = new LinkedHashMap<>();
    private final Map<TagRef, String> ruleOf = new HashMap<>();
    private final Map<String, Map<String, Integer>> taken = new HashMap<>();
    private final Map<String, List<TagRef>> missing = new HashMap<>();

    /** A tag that a rule keeps. */
    public record Tag(TagRef ref, SourceDefinition source, TagInfo info) {}

    private Assigned() {}

    public static Assigned of(
            Collection<KeepingRuleDefinition> rules,
            Collection<SourceDefinition> sources,
            Collection<EquipmentDefinition> equipment) {
        Assigned assigned = new Assigned();
        List<KeepingRuleDefinition> inOrder = rules.stream()
                .sorted(Comparator.comparing(KeepingRuleDefinition::name).thenComparing(KeepingRuleDefinition::id))
                .toList();
        Map<TagRef, Tag> all = all(sources);
        inOrder.forEach(rule -> {
            assigned.byRule.put(rule.id(), new ArrayList<>());
            rule.which().ticked().forEach(ref -> assigned.tick(rule, ref, all.get(ref)));
        });
        if (inOrder.stream().anyMatch(rule -> rule.which().byTerms())) {
            Map<TagRef, List<EquipmentDefinition>> machines = machines(equipment);
            all.values().forEach(tag -> inOrder.stream()
                    .filter(rule ->
                            rule.which().fits(tag.source(), tag.info(), machines.getOrDefault(tag.ref(), List.of())))
                    .forEach(rule -> assigned.give(rule, tag)));
        }
        return assigned;
    }

    /** The tags that a selection means, those that are ticked first; what is ticked and not there is left out. */
    public static List<Tag> fitting(
            Selection which, Collection<SourceDefinition> sources, Collection<EquipmentDefinition> equipment) {
        Map<TagRef, Tag> all = all(sources);
        Map<TagRef, Tag> found = new LinkedHashMap<>();
        which.ticked().stream().filter(all::containsKey).forEach(ref -> found.put(ref, all.get(ref)));
        if (which.byTerms()) {
            Map<TagRef, List<EquipmentDefinition>> machines = machines(equipment);
            all.values().stream()
                    .filter(tag -> which.fits(tag.source(), tag.info(), machines.getOrDefault(tag.ref(), List.of())))
                    .forEach(tag -> found.putIfAbsent(tag.ref(), tag));
        }
        return List.copyOf(found.values());
    }

    private static Map<TagRef, Tag> all(Collection<SourceDefinition> sources) {
        Map<TagRef, Tag> all = new LinkedHashMap<>();
        sources.stream().sorted(Comparator.comparing(SourceDefinition::id)).forEach(source -> source.tags()
                .forEach(tag -> {
                    TagRef ref = new TagRef(source.id(), tag.address());
                    all.put(ref, new Tag(ref, source, tag));
                }));
        return all;
    }

    private static Map<TagRef, List<EquipmentDefinition>> machines(Collection<EquipmentDefinition> equipment) {
        Map<TagRef, List<EquipmentDefinition>> machines = new HashMap<>();
        equipment.forEach(machine -> machine.properties().values().forEach(property -> {
            if (property instanceof PropertySource.FromTag from) {
                machines.computeIfAbsent(from.tag(), each -> new ArrayList<>()).add(machine);
            }
        }));
        return machines;
    }

    private void tick(KeepingRuleDefinition rule, TagRef ref, Tag tag) {
        if (tag == null) {
            missing.computeIfAbsent(rule.id(), each -> new ArrayList<>()).add(ref);
        } else {
            give(rule, tag);
        }
    }

    private void give(KeepingRuleDefinition rule, Tag tag) {
        String has = ruleOf.putIfAbsent(tag.ref(), rule.id());
        if (has == null) {
            byRule.get(rule.id()).add(tag);
        } else if (!has.equals(rule.id())) {
            taken.computeIfAbsent(rule.id(), each -> new LinkedHashMap<>()).merge(has, 1, Integer::sum);
        }
    }

    /** The tags that a rule keeps. */
    public List<Tag> of(String rule) {
        return List.copyOf(byRule.getOrDefault(rule, List.of()));
    }

    /** Of the tags that a rule means, how many another one keeps, by the id of that one. */
    public Map<String, Integer> keptByOthers(String rule) {
        return Map.copyOf(taken.getOrDefault(rule, Map.of()));
    }

    /** Tags that a rule ticks and that are not there any more. */
    public List<TagRef> missing(String rule) {
        return List.copyOf(missing.getOrDefault(rule, List.of()));
    }

    /** The id of the rule that keeps a tag; null where none does. */
    public String ruleOf(TagRef tag) {
        return ruleOf.get(tag);
    }

    /** Every tag that is kept. */
    public Set<TagRef> tags() {
        return Set.copyOf(ruleOf.keySet());
    }
}
