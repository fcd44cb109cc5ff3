package dachshund.core.archive;

import dachshund.core.archive.Column.Sort;
import java.util.ArrayList;
import java.util.List;

/**
 * Values of one tag as they come, of whatever sorts and late ones among them: kept as pieces that are each in the order of
 * their times, which {@link Series} puts together. Not safe for several threads.
 */
public final class Arrivals {

    private final List<Column> pieces = new ArrayList<>();

    /** @param kept as {@link Series#kept} gives it; null for none */
    public void add(long time, Object kept, int mark) {
        Column last = pieces.isEmpty() ? null : pieces.get(pieces.size() - 1);
        Sort sort = Series.sort(kept, last == null ? Sort.NUMBER : last.sort());
        if (last == null || last.sort() != sort || time < last.time(last.size() - 1)) {
            last = new Column(sort, 16);
            pieces.add(last);
        }
        Series.put(last, time, kept, mark);
    }

    /** All of them in order; nothing is added any more. */
    public Series series() {
        return Series.of(pieces);
    }

    /** The pieces by themselves, while more may come. */
    public List<Column> copies() {
        return pieces.stream().map(Column::copy).toList();
    }
}
