package dachshund.core.lineup;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.Repeatable;
import dachshund.core.equipment.Alike;
import dachshund.core.equipment.PropertySource;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;

/**
 * Finds the machines that a design fits: equipment of the class whose properties its tags are, or which a design that reads no
 * tag is about, and folders of tags that look alike. A machine that is found both ways is proposed once, as it fits best.
 */
public final class Proposals<D extends Repeatable<D, M>, M> {

    private final LineUp<D, M> lineUp;
    private final D original;
    private final List<TagRef> tags;
    private final Map<TagRef, TagInfo> infos = new HashMap<>();
    private final Map<List<String>, TagRef> byPlace = new HashMap<>();

    /**
     * A line that is proposed.
     *
     * @param machine  its name
     * @param swaps    which tag stands for which of the original
     * @param missing  names of what it lacks: gaps, until somebody says what becomes of them
     * @param names    the original's machine and this one
     */
    public record Proposed(
            String machine,
            String equipment,
            String name,
            Map<String, String> tables,
            List<Follows.Swap> swaps,
            List<String> missing,
            Map<String, String> names) {

        /** Tells it from all others that are proposed, also when some of them are gone meanwhile. */
        public String key() {
            return equipment.isEmpty()
                    ? swaps.stream()
                            .findFirst()
                            .map(swap -> swap.to().source() + " " + swap.to().address())
                            .orElse(machine)
                    : equipment;
        }

        /** The line it would be. */
        public <D extends Repeatable<D, M>, M> D line(LineUp<D, M> lineUp, D original, String id) {
            Follows<M> follows = new Follows<M>(original.id(), swaps, Map.of(), Optional.empty()).withNames(names);
            D begun = lineUp.begun(original, id, name, equipment, tables);
            return lineUp.made(original, begun.withFollows(Optional.of(follows)));
        }
    }

    private Proposals(LineUp<D, M> lineUp, D original) {
        this.lineUp = lineUp;
        this.original = original;
        this.tags = original.everyTag();
    }

    /**
     * @param placed every tag of the plant with its place
     */
    public static <D extends Repeatable<D, M>, M> List<Proposed> of(
            LineUp<D, M> lineUp, D original, List<EquipmentDefinition> equipment, List<Alike.Placed> placed) {
        Proposals<D, M> proposals = new Proposals<>(lineUp, original);
        placed.forEach(tag -> {
            proposals.infos.put(tag.ref(), tag.info());
            proposals.byPlace.putIfAbsent(
                    List.of(tag.ref().source(), tag.info().path(), tag.info().name()), tag.ref());
        });
        Map<String, Proposed> found = new LinkedHashMap<>();
        proposals.byEquipment(equipment).forEach(each -> found.put(each.key(), each));
        proposals
                .byPaths(placed, equipment)
                .forEach(each -> found.merge(
                        each.key(),
                        each,
                        (a, b) -> b.missing().size() < a.missing().size() ? b : a));
        return List.copyOf(found.values());
    }

    /** The equipment that the original is about: its own, or the one that maps most of its tags. */
    private Optional<EquipmentDefinition> own(List<EquipmentDefinition> equipment) {
        Optional<EquipmentDefinition> named = equipment.stream()
                .filter(each -> each.id().equals(original.equipment()))
                .findFirst();
        return named.isPresent()
                ? named
                : equipment.stream().filter(each -> shared(each) > 0).max(Comparator.comparingLong(this::shared));
    }

    private long shared(EquipmentDefinition equipment) {
        Map<TagRef, String> mapped = mapped(equipment);
        return tags.stream().filter(mapped::containsKey).count();
    }

    private static Map<TagRef, String> mapped(EquipmentDefinition equipment) {
        Map<TagRef, String> mapped = new HashMap<>();
        equipment.properties().forEach((property, from) -> {
            if (from instanceof PropertySource.FromTag tag) {
                mapped.put(tag.tag(), property);
            }
        });
        return mapped;
    }

    private List<Proposed> byEquipment(List<EquipmentDefinition> equipment) {
        Optional<EquipmentDefinition> own = own(equipment);
        if (own.isEmpty()) {
            return List.of();
        }
        Map<TagRef, String> properties = mapped(own.get());
        Set<String> asked = lineUp.properties(original);
        // What reads no tag at all is about its equipment where it names one.
        boolean about = tags.isEmpty() && own.get().id().equals(original.equipment());
        if (!about && asked.isEmpty() && tags.stream().noneMatch(properties::containsKey)) {
            return List.of();
        }
        List<Proposed> proposals = new ArrayList<>();
        for (EquipmentDefinition other : equipment) {
            if (other.equipmentClass().equals(own.get().equipmentClass())
                    && !other.id().equals(own.get().id())) {
                List<Follows.Swap> swaps = new ArrayList<>();
                Set<TagRef> left = new LinkedHashSet<>();
                for (TagRef tag : tags) {
                    String property = properties.get(tag);
                    if (property != null
                            && other.property(property).orElse(null) instanceof PropertySource.FromTag to) {
                        swaps.add(new Follows.Swap(tag, to.tag()));
                    } else {
                        left.add(tag);
                    }
                }
                List<TagRef> mapped = swaps.stream().map(Follows.Swap::to).toList();
                left.removeIf(tag -> beside(tag, mapped)
                        .map(to -> swaps.add(new Follows.Swap(tag, to)))
                        .orElse(false));
                // In the order of the design, as a line that is typed has them too.
                swaps.sort(Comparator.comparingInt(swap -> tags.indexOf(swap.from())));
                Set<String> missing = left.stream()
                        .map(tag -> properties.getOrDefault(tag, name(tag)))
                        .collect(Collectors.toCollection(TreeSet::new));
                asked.stream()
                        .filter(property -> other.property(property).isEmpty())
                        .forEach(missing::add);
                proposals.add(proposed(own.get().name(), other.name(), other.id(), swaps, List.copyOf(missing)));
            }
        }
        return proposals;
    }

    private String name(TagRef tag) {
        return Optional.ofNullable(infos.get(tag)).map(TagInfo::name).orElse(tag.address());
    }

    /** What no property maps may stand in the folder of what one does, under the same name. */
    private Optional<TagRef> beside(TagRef tag, List<TagRef> mapped) {
        return mapped.stream()
                .filter(infos::containsKey)
                .map(near -> byPlace.get(List.of(near.source(), infos.get(near).path(), name(tag))))
                .filter(Objects::nonNull)
                .filter(to -> !mapped.contains(to))
                .findFirst();
    }

    /**
     * Beside the machine in whose folder most of its tags are, of its kind; without those that have less than half of them: a
     * folder that shares a tag or two with it is no such machine.
     */
    private List<Proposed> byPaths(List<Alike.Placed> placed, List<EquipmentDefinition> equipment) {
        List<Proposed> best = List.of();
        int most = 0;
        for (Alike.Group group : Alike.groups(placed)) {
            for (Alike.Machine own : group.machines()) {
                Map<TagRef, String> names = new LinkedHashMap<>();
                own.tags().forEach((name, tag) -> names.put(tag.ref(), name));
                int has = (int) tags.stream().filter(names::containsKey).count();
                if (has > most) {
                    most = has;
                    best = group.machines().stream()
                            .filter(machine -> !machine.equals(own))
                            .map(machine -> byPath(own, machine, names, equipment))
                            .filter(each -> 2 * each.swaps().size() >= tags.size())
                            .toList();
                }
            }
        }
        return best;
    }

    private Proposed byPath(
            Alike.Machine own, Alike.Machine other, Map<TagRef, String> names, List<EquipmentDefinition> equipment) {
        List<Follows.Swap> swaps = new ArrayList<>();
        List<String> missing = new ArrayList<>();
        for (TagRef tag : tags) {
            String name = names.get(tag);
            if (name != null && other.tags().containsKey(name)) {
                swaps.add(new Follows.Swap(tag, other.tags().get(name).ref()));
            } else {
                missing.add(name == null ? name(tag) : name);
            }
        }
        String piece = equipment.stream()
                .filter(each -> swaps.stream().anyMatch(swap -> mapped(each).containsKey(swap.to())))
                .map(EquipmentDefinition::id)
                .findFirst()
                .orElse("");
        return proposed(own.name(), other.name(), piece, swaps, missing);
    }

    private Proposed proposed(
            String own, String machine, String equipment, List<Follows.Swap> swaps, List<String> missing) {
        Map<String, String> tables = new LinkedHashMap<>();
        Map<String, String> names = Map.of(own, machine);
        lineUp.tables(original)
                .forEach((destination, table) -> tables.put(destination, OwnNames.table(table, names, machine)));
        String name = OwnNames.renamed(original.name(), own, machine);
        return new Proposed(
                machine,
                equipment,
                name.equals(original.name()) ? original.name() + " " + machine : name,
                tables,
                swaps,
                missing,
                names);
    }
}
