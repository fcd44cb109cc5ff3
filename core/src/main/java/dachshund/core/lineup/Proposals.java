package dachshund.core.lineup;

import dachshund.core.definition.EquipmentDefinition;
import dachshund.core.definition.Follows;
import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.equipment.Alike;
import dachshund.core.equipment.PropertySource;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * Finds the machines that a recorder's design fits: equipment of the class whose properties its tags are, else folders of
 * tags that look alike.
 */
public final class Proposals {

    private final RecorderDefinition original;
    private final List<TagRef> tags;

    /**
     * A line that is proposed.
     *
     * @param machine  its name
     * @param swaps    which tag stands for which of the original
     * @param missing  names of what it lacks; the original's tag would stay in its place
     */
    public record Proposed(String machine, String equipment, String name, Map<String, String> tables, List<Follows.Swap> swaps, List<String> missing) {

        /** The recorder it would be. */
        public RecorderDefinition recorder(RecorderDefinition original, String id) {
            List<Where> wheres = original.wheres().stream().map(where -> where.withTable(tables.getOrDefault(where.destination(), where.table()))).toList();
            RecorderDefinition bare = new RecorderDefinition(id, name, original.description(), equipment, original.whens(), original.gate(), original.layout(), wheres,
                    Optional.of(new Follows(original.id(), swaps, Map.of(), Optional.empty())));
            return LineUp.derived(original, bare);
        }
    }

    private Proposals(RecorderDefinition original) {
        this.original = original;
        this.tags = LineUp.tags(original);
    }

    /**
     * @param placed every tag of the plant with its place
     */
    public static List<Proposed> of(RecorderDefinition original, List<EquipmentDefinition> equipment, List<Alike.Placed> placed) {
        Proposals proposals = new Proposals(original);
        List<Proposed> byEquipment = proposals.byEquipment(equipment);
        return byEquipment.isEmpty() ? proposals.byPaths(placed, equipment) : byEquipment;
    }

    /** The equipment that the original is about: its own, or the one that maps most of its tags. */
    private Optional<EquipmentDefinition> own(List<EquipmentDefinition> equipment) {
        Optional<EquipmentDefinition> named = equipment.stream().filter(each -> each.id().equals(original.equipment())).findFirst();
        return named.isPresent() ? named : equipment.stream().filter(each -> mapped(each).keySet().containsAll(tags) && !tags.isEmpty()).findFirst();
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
        Set<String> asked = new TreeSet<>();
        original.layout().columnsAndFields().forEach(column -> {
            if (column.from() instanceof ColumnSource.FromProperty from && from.equipment().isEmpty()) {
                asked.add(from.property());
            }
        });
        if (asked.isEmpty() && tags.stream().noneMatch(properties::containsKey)) {
            return List.of();
        }
        List<Proposed> proposals = new ArrayList<>();
        for (EquipmentDefinition other : equipment) {
            if (other.equipmentClass().equals(own.get().equipmentClass()) && !other.id().equals(own.get().id())) {
                List<Follows.Swap> swaps = new ArrayList<>();
                Set<String> missing = new TreeSet<>();
                for (TagRef tag : tags) {
                    String property = properties.get(tag);
                    if (property != null && other.property(property).orElse(null) instanceof PropertySource.FromTag to) {
                        swaps.add(new Follows.Swap(tag, to.tag()));
                    } else if (property != null) {
                        missing.add(property);
                    }
                }
                asked.stream().filter(property -> other.property(property).isEmpty()).forEach(missing::add);
                proposals.add(proposed(own.get().name(), other.name(), other.id(), swaps, List.copyOf(missing)));
            }
        }
        return proposals;
    }

    private List<Proposed> byPaths(List<Alike.Placed> placed, List<EquipmentDefinition> equipment) {
        for (Alike.Group group : Alike.groups(placed)) {
            for (Alike.Machine own : group.machines()) {
                Map<TagRef, String> names = new LinkedHashMap<>();
                own.tags().forEach((name, tag) -> names.put(tag.ref(), name));
                if (tags.isEmpty() || tags.stream().noneMatch(names::containsKey)) {
                    continue;
                }
                return group.machines().stream().filter(machine -> machine != own).map(machine -> byPath(own, machine, names, equipment)).toList();
            }
        }
        return List.of();
    }

    private Proposed byPath(Alike.Machine own, Alike.Machine other, Map<TagRef, String> names, List<EquipmentDefinition> equipment) {
        List<Follows.Swap> swaps = new ArrayList<>();
        List<String> missing = new ArrayList<>();
        for (TagRef tag : tags) {
            String name = names.get(tag);
            if (name != null && other.tags().containsKey(name)) {
                swaps.add(new Follows.Swap(tag, other.tags().get(name).ref()));
            } else if (name != null) {
                missing.add(name);
            }
        }
        String piece = equipment.stream().filter(each -> swaps.stream().anyMatch(swap -> mapped(each).containsKey(swap.to()))).map(EquipmentDefinition::id).findFirst().orElse("");
        return proposed(own.name(), other.name(), piece, swaps, missing);
    }

    private Proposed proposed(String own, String machine, String equipment, List<Follows.Swap> swaps, List<String> missing) {
        Map<String, String> tables = new LinkedHashMap<>();
        original.wheres().forEach(where -> tables.put(where.destination(), table(where.table(), own, machine)));
        String name = renamed(original.name(), own, machine);
        return new Proposed(machine, equipment, name.equals(original.name()) ? original.name() + " " + machine : name, tables, swaps, missing);
    }

    /** A table of its own, unless the name is a pattern that tells machines apart already. */
    private static String table(String table, String own, String machine) {
        if (table.contains("{equipment}") || table.contains("{recorder}")) {
            return table;
        }
        String renamed = renamed(table, own.toLowerCase(java.util.Locale.ROOT), machine.toLowerCase(java.util.Locale.ROOT));
        return renamed.equals(table) ? table + "_" + Layout.freeName(machine, List.of()) : renamed;
    }

    /** One machine's name for another's, and where names end in numbers, the number alone: Pellet line 1 of PL1. */
    private static String renamed(String text, String own, String machine) {
        if (text.contains(own)) {
            return text.replace(own, machine);
        }
        String ownNumber = own.replaceAll("^.*?(\\d+)$", "$1");
        String number = machine.replaceAll("^.*?(\\d+)$", "$1");
        boolean numbered = !ownNumber.equals(own) && !number.equals(machine);
        return numbered && text.matches(".*\\b" + ownNumber + "|.*_" + ownNumber) ? text.substring(0, text.length() - ownNumber.length()) + number : text;
    }
}
