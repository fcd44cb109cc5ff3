package dachshund.core.modbus;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.List;

/**
 * The fewest requests that read a set of points: neighbours share a request as long as the gap between them and the
 * whole size stay within limits. Taking as much as fits from the lowest address on is optimal, because every point
 * must lie whole in one request and requests cover stretches without order among them.
 */
public final class ReadPlan {

    /**
     * @param gap       most registers (or 16 times as many bits) that are read though nobody wants them
     * @param registers most registers of one request, up to 125 (V1.1b3, 6.3)
     * @param bits      most bits of one request, up to 2,000 (V1.1b3, 6.1)
     */
    public record Limits(int gap, int registers, int bits) {

        public static final Limits USUAL = new Limits(8, 125, 2000);

        public Limits {
            if (gap < 0 || registers < 1 || registers > 125 || bits < 1 || bits > 2000) {
                throw new IllegalArgumentException("A request reads 1 to 125 registers or 1 to 2,000 bits.");
            }
        }

        private int most(ModbusTable table) {
            return table.bits() ? bits : registers;
        }

        private int gap(ModbusTable table) {
            return table.bits() ? gap * 16 : gap;
        }
    }

    /**
     * One request.
     *
     * @param from   first address
     * @param count  registers or bits
     * @param points what lies within
     */
    public record Request(int unit, ModbusTable table, int from, int count, List<ModbusPoint> points) {}

    private ReadPlan() {}

    public static List<Request> of(Collection<ModbusPoint> points, Limits limits) {
        List<ModbusPoint> sorted = points.stream()
                .distinct()
                .sorted(Comparator.comparingInt(ModbusPoint::unit)
                        .thenComparing(ModbusPoint::table)
                        .thenComparingInt(ModbusPoint::address)
                        .thenComparingInt(ModbusPoint::end))
                .toList();
        List<Request> requests = new ArrayList<>();
        List<ModbusPoint> run = new ArrayList<>();
        int end = 0;
        for (ModbusPoint point : sorted) {
            boolean joins = !run.isEmpty()
                    && run.get(0).unit() == point.unit()
                    && run.get(0).table() == point.table()
                    && point.address() - end <= limits.gap(point.table())
                    && Math.max(end, point.end()) - run.get(0).address() <= limits.most(point.table());
            if (!joins && !run.isEmpty()) {
                requests.add(request(run, end));
                run = new ArrayList<>();
                end = 0;
            }
            run.add(point);
            end = Math.max(end, point.end());
        }
        if (!run.isEmpty()) {
            requests.add(request(run, end));
        }
        return requests;
    }

    private static Request request(List<ModbusPoint> run, int end) {
        ModbusPoint first = run.get(0);
        return new Request(first.unit(), first.table(), first.address(), end - first.address(), List.copyOf(run));
    }
}
