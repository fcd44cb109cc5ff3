package dachshund.office.query;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/** Of one tag: times that rise, in 100 ns ticks, and what stands beside each. */
final class TagPoints {

    private long[] ticks = new long[64];
    private final List<Object[]> cells = new ArrayList<>();

    void add(long at, Object... beside) {
        if (cells.size() == ticks.length) {
            ticks = Arrays.copyOf(ticks, ticks.length * 2);
        }
        ticks[cells.size()] = at;
        cells.add(beside);
    }

    int size() {
        return cells.size();
    }

    long ticks(int index) {
        return ticks[index];
    }

    Object[] cells(int index) {
        return cells.get(index);
    }
}
