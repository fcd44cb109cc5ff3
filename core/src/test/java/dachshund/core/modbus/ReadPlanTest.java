package dachshund.core.modbus;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.Size;
import org.junit.jupiter.api.Test;

class ReadPlanTest {

    private static ModbusPoint at(int address, String type) {
        return ModbusPoint.read(Map.of("table", "holding", "register", Integer.toString(address), "type", type));
    }

    @Test
    void neighboursShareARequestWithinGapAndSize() {
        List<ModbusPoint> points = List.of(
                at(0, "uint16"),
                at(2, "float32"),
                at(12, "uint16"),
                at(22, "uint16"),
                at(124, "uint16"),
                at(125, "uint32"));
        List<ReadPlan.Request> plan = ReadPlan.of(points, new ReadPlan.Limits(8, 125, 2000));
        assertThat(plan)
                .extracting(ReadPlan.Request::from, ReadPlan.Request::count)
                .containsExactly(
                        org.assertj.core.groups.Tuple.tuple(0, 13),
                        org.assertj.core.groups.Tuple.tuple(22, 1),
                        org.assertj.core.groups.Tuple.tuple(124, 3));
        assertThat(ReadPlan.of(points, new ReadPlan.Limits(200, 125, 2000))).hasSize(2);
    }

    @Test
    void unitsAndTablesNeverShare() {
        List<ModbusPoint> points = List.of(
                at(0, "uint16"),
                ModbusPoint.read(Map.of("unit_id", "2", "register", "40001")),
                ModbusPoint.read(Map.of("register", "30001")),
                ModbusPoint.read(Map.of("register", "00001")),
                ModbusPoint.read(Map.of("register", "00100")));
        assertThat(ReadPlan.of(points, ReadPlan.Limits.USUAL)).hasSize(4);
    }

    /** Against trying every way to cut the sorted points: no way needs fewer requests. */
    @Property(tries = 300)
    void noPlanIsShorter(
            @ForAll @Size(min = 1, max = 9) List<@IntRange(min = 0, max = 60) Integer> addresses,
            @ForAll @IntRange(min = 0, max = 12) int gap,
            @ForAll @IntRange(min = 4, max = 24) int most) {
        List<ModbusPoint> points = new ArrayList<>();
        for (int i = 0; i < addresses.size(); i++) {
            points.add(at(addresses.get(i), i % 3 == 0 ? "float64" : i % 3 == 1 ? "uint32" : "uint16"));
        }
        ReadPlan.Limits limits = new ReadPlan.Limits(gap, most, 2000);
        List<ReadPlan.Request> plan = ReadPlan.of(points, limits);
        plan.forEach(request -> {
            assertThat(request.count()).isLessThanOrEqualTo(most);
            request.points().forEach(point -> assertThat(
                            point.address() >= request.from() && point.end() <= request.from() + request.count())
                    .isTrue());
        });
        assertThat(plan.stream().mapToInt(request -> request.points().size()).sum())
                .isEqualTo((int) points.stream().distinct().count());
        assertThat(plan.size()).isEqualTo(fewest(points.stream().distinct().toList(), limits));
    }

    /** The fewest groups, over all groupings: a point joins any group or opens a new one. */
    private static int fewest(List<ModbusPoint> points, ReadPlan.Limits limits) {
        return fewest(points, 0, new ArrayList<>(), limits, new int[] {points.size()});
    }

    private static int fewest(
            List<ModbusPoint> points, int next, List<List<ModbusPoint>> groups, ReadPlan.Limits limits, int[] best) {
        if (groups.size() >= best[0]) {
            return best[0];
        }
        if (next == points.size()) {
            if (groups.stream().allMatch(group -> allowed(group, limits))) {
                best[0] = groups.size();
            }
            return best[0];
        }
        for (List<ModbusPoint> group : List.copyOf(groups)) {
            group.add(points.get(next));
            if (span(group) <= limits.registers()) {
                fewest(points, next + 1, groups, limits, best);
            }
            group.remove(group.size() - 1);
        }
        groups.add(new ArrayList<>(List.of(points.get(next))));
        fewest(points, next + 1, groups, limits, best);
        groups.remove(groups.size() - 1);
        return best[0];
    }

    private static int span(List<ModbusPoint> group) {
        return group.stream().mapToInt(ModbusPoint::end).max().orElse(0)
                - group.stream().mapToInt(ModbusPoint::address).min().orElse(0);
    }

    private static boolean allowed(List<ModbusPoint> group, ReadPlan.Limits limits) {
        List<ModbusPoint> sorted = group.stream()
                .sorted(java.util.Comparator.comparingInt(ModbusPoint::address))
                .toList();
        int end = sorted.get(0).end();
        for (ModbusPoint point : sorted) {
            if (point.address() - end > limits.gap()) {
                return false;
            }
            end = Math.max(end, point.end());
        }
        return span(group) <= limits.registers();
    }
}
