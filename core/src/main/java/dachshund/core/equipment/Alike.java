package dachshund.core.equipment;

import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;

/**
 * Folders of tags that look alike, so that they are probably machines of one kind: neighbours (folders in the same
 * folder of the same source) whose tags have mostly the same names.
 */
public final class Alike {

    /** Two folders are alike where they share at least this part of all names that either has. */
    static final double SHARED = 0.6;

    private static final int FEWEST_TAGS = 2;

    private Alike() {}

    /** A tag and where it is. */
    public record Placed(TagRef ref, TagInfo info) {}

    /**
     * A folder as a machine.
     *
     * @param name     last part of its path
     * @param location the parts before; may be empty
     * @param tags     its tags by name
     */
    public record Machine(String source, String name, String location, Map<String, Placed> tags) {}

    /**
     * Machines that look alike.
     *
     * @param properties names of tags that more than half of them have, in the order of the first machine
     */
    public record Group(List<Machine> machines, List<String> properties) {

        /** Names that a machine lacks. */
        public List<String> missing(Machine machine) {
            return properties.stream()
                    .filter(name -> !machine.tags().containsKey(name))
                    .toList();
        }

        /** The machines without those that have one of these tags, and with all else as it is. */
        public Group without(Set<TagRef> mapped) {
            return new Group(
                    machines.stream()
                            .filter(machine ->
                                    machine.tags().values().stream().noneMatch(tag -> mapped.contains(tag.ref())))
                            .toList(),
                    properties);
        }

        /** A name for what they are: what their names begin with, else the place where they stand. */
        public String proposedName() {
            String first = machines.get(0).name().replaceAll("[\\d_\\-. ]+$", "");
            boolean same = !first.isEmpty()
                    && machines.stream().allMatch(machine -> machine.name()
                            .replaceAll("[\\d_\\-. ]+$", "")
                            .equalsIgnoreCase(first));
            String location = machines.get(0).location();
            String place = location.substring(location.lastIndexOf('/') + 1).strip();
            if (same && first.length() > 2) {
                return first;
            }
            // "Silos" are silos; what stands in "Pelleting" is a machine there.
            boolean many = place.length() > 3 && place.endsWith("s") && !place.endsWith("ss");
            return place.isEmpty()
                    ? first.isEmpty() ? "Machine" : first
                    : many ? place.substring(0, place.length() - 1) : place + " machine";
        }
    }

    /** All groups of two machines or more, the largest first. */
    public static List<Group> groups(List<Placed> tags) {
        Map<String, Machine> machines = new LinkedHashMap<>();
        for (Placed tag : tags) {
            String path = tag.info().path();
            if (path.isEmpty()) {
                continue;
            }
            int slash = path.lastIndexOf(" / ");
            machines.computeIfAbsent(
                            tag.ref().source() + "\n" + path,
                            key -> new Machine(
                                    tag.ref().source(),
                                    slash < 0 ? path : path.substring(slash + 3),
                                    slash < 0 ? "" : path.substring(0, slash),
                                    new LinkedHashMap<>()))
                    .tags()
                    .putIfAbsent(tag.info().name(), tag);
        }
        Map<String, List<Machine>> neighbours = new TreeMap<>();
        machines.values().stream()
                .filter(machine -> machine.tags().size() >= FEWEST_TAGS)
                .forEach(machine -> neighbours
                        .computeIfAbsent(machine.source() + "\n" + machine.location(), key -> new ArrayList<>())
                        .add(machine));
        List<Group> groups = new ArrayList<>();
        neighbours.values().forEach(row -> cluster(row).stream()
                .filter(group -> group.size() > 1)
                .forEach(group -> groups.add(group(group))));
        groups.sort(Comparator.comparing((Group group) -> -group.machines().size())
                .thenComparing(group -> group.machines().get(0).name()));
        return groups;
    }

    /** A machine joins the first cluster whose first machine it is like. */
    private static List<List<Machine>> cluster(List<Machine> row) {
        List<List<Machine>> clusters = new ArrayList<>();
        List<Machine> largestFirst = row.stream()
                .sorted(Comparator.comparing(
                        (Machine machine) -> -machine.tags().size()))
                .toList();
        for (Machine machine : largestFirst) {
            clusters.stream()
                    .filter(cluster -> shared(
                                    cluster.get(0).tags().keySet(),
                                    machine.tags().keySet())
                            >= SHARED)
                    .findFirst()
                    .ifPresentOrElse(
                            cluster -> cluster.add(machine), () -> clusters.add(new ArrayList<>(List.of(machine))));
        }
        return clusters;
    }

    /** Jaccard index of two sets of names, without regard to case. */
    static double shared(Set<String> a, Set<String> b) {
        Set<String> both = new LinkedHashSet<>();
        a.forEach(name -> both.add(name.toLowerCase(Locale.ROOT)));
        int inA = both.size();
        int inBoth = 0;
        for (String name : b) {
            if (!both.add(name.toLowerCase(Locale.ROOT))) {
                inBoth++;
            }
        }
        return inA == 0 ? 0 : (double) inBoth / both.size();
    }

    private static Group group(List<Machine> machines) {
        List<Machine> sorted =
                machines.stream().sorted(Comparator.comparing(Machine::name)).toList();
        Map<String, Integer> counts = new HashMap<>();
        sorted.forEach(machine -> machine.tags().keySet().forEach(name -> counts.merge(name, 1, Integer::sum)));
        Set<String> properties = new LinkedHashSet<>();
        sorted.forEach(machine -> machine.tags().keySet().stream()
                .filter(name -> counts.get(name) * 2 > sorted.size())
                .forEach(properties::add));
        return new Group(sorted, List.copyOf(properties));
    }
}
