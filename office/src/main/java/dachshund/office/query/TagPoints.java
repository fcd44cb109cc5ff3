package dachshund.office.query;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.function.IntFunction;
import java.util.function.IntToLongFunction;

/** Of one tag: times that rise, in 100 ns ticks, and what stands beside each. */
interface TagPoints {

    int size();

    long ticks(int index);

    Object[] cells(int index);

    /** Points that are made when they are asked for, so that many of them take no more room than what they are made of. */
    record Made(int size, IntToLongFunction times, IntFunction<Object[]> made) implements TagPoints {
        @Override
        public long ticks(int index) {
            return times.applyAsLong(index);
        }

        @Override
        public Object[] cells(int index) {
            return made.apply(index);
        }
    }

    /** Points one after the other. */
    final class Listed implements TagPoints {

        private long[] ticks = new long[64];
        private final List<Object[]> cells = new ArrayList<>();

        void add(long at, Object... beside) {
            if (cells.size() == ticks.length) {
                ticks = Arrays.copyOf(ticks, ticks.length * 2);
            }
            ticks[cells.size()] = at;
            cells.add(beside);
        }

        @Override
        public int size() {
            return cells.size();
        }

        @Override
        public long ticks(int index) {
            return ticks[index];
        }

        @Override
        public Object[] cells(int index) {
            return cells.get(index);
        }
    }
}
