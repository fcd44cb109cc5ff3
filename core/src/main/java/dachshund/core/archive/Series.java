package dachshund.core.archive;

import dachshund.core.aggregate.Samples;
import dachshund.core.archive.Column.Sort;
import java.math.BigDecimal;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * Values of one tag, of whatever sorts, put together from pieces that may overlap: in the order of their times, and of two
 * at the same instant the one of the later piece. Everything that reads the archive, and whoever puts its blocks together,
 * goes through here.
 */
public final class Series {

    private final List<Column> pieces;
    private final int[] piece;
    private final int[] at;
    private final int replaced;

    private Series(List<Column> pieces, int[] piece, int[] at, int replaced) {
        this.pieces = pieces;
        this.piece = piece;
        this.at = at;
        this.replaced = replaced;
    }

    /** @param pieces in the order in which they were made; each in the order of its times */
    public static Series of(List<Column> pieces) {
        int all = pieces.stream().mapToInt(Column::size).sum();
        int[] piece = new int[all];
        int[] at = new int[all];
        int size = 0;
        int replaced = 0;
        if (follow(pieces)) {
            for (int p = 0; p < pieces.size(); p++) {
                Column column = pieces.get(p);
                for (int i = 0; i < column.size(); i++) {
                    if (i + 1 < column.size() && column.time(i) == column.time(i + 1)) {
                        replaced++;
                        continue;
                    }
                    piece[size] = p;
                    at[size++] = i;
                }
            }
        } else {
            long[][] order = new long[all][];
            for (int p = 0; p < pieces.size(); p++) {
                for (int i = 0; i < pieces.get(p).size(); i++) {
                    order[size++] = new long[] {pieces.get(p).time(i), p, i};
                }
            }
            Arrays.sort(order, Comparator.comparingLong(each -> each[0])); // which keeps pieces in their order
            size = 0;
            for (int i = 0; i < all; i++) {
                if (i + 1 < all && order[i][0] == order[i + 1][0]) {
                    replaced++;
                    continue;
                }
                piece[size] = (int) order[i][1];
                at[size++] = (int) order[i][2];
            }
        }
        return new Series(pieces, Arrays.copyOf(piece, size), Arrays.copyOf(at, size), replaced);
    }

    private static boolean follow(List<Column> pieces) {
        long last = Long.MIN_VALUE;
        for (Column piece : pieces) {
            if (piece.size() > 0) {
                if (piece.time(0) <= last) {
                    return false;
                }
                last = piece.time(piece.size() - 1);
            }
        }
        return true;
    }

    public int size() {
        return at.length;
    }

    /** How many values gave way to a later one at the same instant. */
    public int replaced() {
        return replaced;
    }

    /** How many of them lie before the time. */
    public int before(long time) {
        int low = 0;
        int high = size();
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (time(middle) < time) {
                low = middle + 1;
            } else {
                high = middle;
            }
        }
        return low;
    }

    /** 100 ns ticks since 1601. */
    public long time(int index) {
        return pieces.get(piece[index]).time(at[index]);
    }

    /** One of {@link Marks}. */
    public int mark(int index) {
        return pieces.get(piece[index]).quality(at[index]);
    }

    public Sort sort(int index) {
        return pieces.get(piece[index]).sort();
    }

    /** The value as it came; empty where there was none, and at a gap. */
    public Optional<Object> value(int index) {
        Column column = pieces.get(piece[index]);
        int i = at[index];
        if (!Marks.hasValue(column.quality(i))) {
            return Optional.empty();
        }
        return switch (column.sort()) {
            case NUMBER -> Double.isNaN(column.number(i)) ? Optional.empty() : Optional.of(column.number(i));
            case WHOLE -> Optional.of(column.whole(i));
            case TRUTH -> Optional.of(column.truth(i));
            case TEXT -> Optional.of(column.text(i));
        };
    }

    /** The value as a number; NaN where it is none. */
    public double number(int index) {
        Column column = pieces.get(piece[index]);
        return column.sort() == Sort.TEXT || !Marks.hasValue(column.quality(at[index]))
                ? Double.NaN
                : column.number(at[index]);
    }

    /** Whether there may be texts among them. */
    boolean hasTexts() {
        return pieces.stream().anyMatch(piece -> piece.sort() == Sort.TEXT);
    }

    /** How long the text is; 0 for what is none. */
    int letters(int index) {
        Column column = pieces.get(piece[index]);
        return column.sort() == Sort.TEXT ? column.text(at[index]).length() : 0;
    }

    /** As numbers to be folded: a truth value is 0 or 1, a text is no number and counts as bad. */
    public Samples samples() {
        int size = size();
        long[] times = new long[size];
        double[] values = new double[size];
        byte[] grades = new byte[size];
        for (int index = 0; index < size; index++) {
            Column column = pieces.get(piece[index]);
            int i = at[index];
            times[index] = column.time(i);
            grades[index] = Marks.sample(column.quality(i));
            values[index] = column.sort() == Sort.TEXT ? Double.NaN : column.number(i);
        }
        return Samples.of(times, values, grades, size);
    }

    /**
     * The values from one index up to another, as columns of one sort each, to be kept as blocks.
     *
     * @param from first index
     * @param to   behind the last
     */
    public List<Column> columns(int from, int to) {
        if (from < to && ofOnePiece(from, to)) {
            return List.of(pieces.get(piece[from]).part(at[from], at[to - 1] + 1)); // nearly all there are
        }
        Map<Sort, Column> columns = new EnumMap<>(Sort.class);
        for (int index = from; index < to; index++) {
            Column of = pieces.get(piece[index]);
            Column into = columns.computeIfAbsent(of.sort(), sort -> new Column(sort, 64));
            into.take(of, at[index]);
        }
        return new ArrayList<>(columns.values());
    }

    private boolean ofOnePiece(int from, int to) {
        for (int index = from + 1; index < to; index++) {
            if (piece[index] != piece[from] || at[index] != at[index - 1] + 1) {
                return false;
            }
        }
        return true;
    }

    /** Puts a value of a tag behind those of a column of its sort. */
    public static void put(Column column, long time, Object value, int mark) {
        switch (column.sort()) {
            case NUMBER -> column.addNumber(time, value == null ? Double.NaN : (Double) value, mark);
            case WHOLE -> column.addWhole(time, value == null ? 0 : (Long) value, mark);
            case TRUTH -> column.addTruth(time, value != null && (Boolean) value, mark);
            case TEXT -> column.addText(time, value == null ? "" : (String) value, mark);
        }
    }

    /** What the archive keeps a value as: Double, Long, Boolean or String; null for none. */
    public static Object kept(Optional<Object> value) {
        Object raw = value.orElse(null);
        if (raw == null
                || raw instanceof Double
                || raw instanceof Long
                || raw instanceof Boolean
                || raw instanceof String) {
            return raw;
        }
        if (raw instanceof BigDecimal number) {
            return number.toPlainString();
        }
        if (raw instanceof Instant time) {
            return time.toString();
        }
        if (raw instanceof Integer number) {
            return number.longValue();
        }
        if (raw instanceof Float number) {
            return number.doubleValue();
        }
        return raw.toString();
    }

    /** The sort that a kept value is of; where there is none, the one that values had before. */
    public static Sort sort(Object kept, Sort before) {
        if (kept == null) {
            return before;
        }
        return kept instanceof Double
                ? Sort.NUMBER
                : kept instanceof Long ? Sort.WHOLE : kept instanceof Boolean ? Sort.TRUTH : Sort.TEXT;
    }
}
