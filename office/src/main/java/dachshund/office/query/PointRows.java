package dachshund.office.query;

import dachshund.core.query.TagHistory;
import dachshund.core.query.TagHistory.Calculation;
import dachshund.core.query.TagHistory.Mode;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.tag.DataKind;
import dachshund.core.time.OpcUaTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Map;

/**
 * Points of all tags together, in the order of their times.
 *
 * @param period what a period is called, where it has a name
 * @param names  of the periods, by their beginnings
 */
record PointRows(
        TagHistory query, List<MeantTags.Tag> tags, List<TagPoints> points, String period, Map<Long, String> names) {

    private static final TableShape.Sort ANY = TableShape.Sort.OTHER;

    private List<TableShape.Column> columns() {
        List<TableShape.Column> columns = new ArrayList<>();
        if (!period.isEmpty()) {
            columns.add(new TableShape.Column(period, "text", TableShape.Sort.TEXT, false));
        }
        boolean latestSideBySide = query.mode() == Mode.LATEST && query.wide();
        if (!latestSideBySide) {
            columns.add(new TableShape.Column("time", "time stamp", TableShape.Sort.STAMP, false));
        }
        if (!query.wide()) {
            columns.add(new TableShape.Column("tag", "text", TableShape.Sort.TEXT, false));
            values().forEach(each -> columns.add(column(each, sort(tags))));
            columns.add(
                    query.mode() == Mode.AGGREGATED
                            ? column("percent_good", TableShape.Sort.NUMBER)
                            : column("quality", TableShape.Sort.TEXT));
            return columns;
        }
        for (MeantTags.Tag tag : tags) {
            for (String each : values()) {
                columns.add(column(values().size() > 1 ? tag.name() + " " + each : tag.name(), sort(List.of(tag))));
            }
        }
        return columns;
    }

    private static TableShape.Column column(String name, TableShape.Sort sort) {
        return new TableShape.Column(name, sort.words(), sort, true);
    }

    private TableShape.Sort sort(List<MeantTags.Tag> of) {
        if (query.mode() == Mode.AGGREGATED
                || of.stream().allMatch(each -> each.info().kind() == DataKind.NUMBER)) {
            return TableShape.Sort.NUMBER;
        }
        return of.stream().allMatch(each -> each.info().kind() == DataKind.TEXT) ? TableShape.Sort.TEXT : ANY;
    }

    /** The names of what stands for a tag beside a time. */
    private List<String> values() {
        return query.mode() == Mode.AGGREGATED
                ? query.of().stream().map(Calculation::column).toList()
                : List.of("value");
    }

    long give(long most, TableReading.Taker taker) {
        taker.columns(columns());
        int[] at = new int[tags.size()];
        long given = 0;
        boolean apart = query.mode() == Mode.LATEST;
        if (apart && query.wide()) {
            List<Object> row = new ArrayList<>();
            points.forEach(each -> row.add(each.cells(0)[0]));
            if (most > 0) {
                taker.row(row);
            }
            return Math.min(most, 1);
        }
        while (given < most) {
            long next = next(at);
            if (next == Long.MAX_VALUE) {
                return given;
            }
            if (query.wide()) {
                given++;
                if (!taker.row(wide(at, next))) {
                    return given;
                }
                continue;
            }
            for (int i = 0; i < at.length && given < most; i++) {
                if (at[i] < points.get(i).size() && points.get(i).ticks(at[i]) == next) {
                    given++;
                    if (!taker.row(tall(i, at[i]++))) {
                        return given;
                    }
                }
            }
        }
        return given;
    }

    private long next(int[] at) {
        long next = Long.MAX_VALUE;
        for (int i = 0; i < at.length; i++) {
            if (at[i] < points.get(i).size()) {
                next = Math.min(next, points.get(i).ticks(at[i]));
            }
        }
        return next;
    }

    private List<Object> head(long ticks) {
        List<Object> row = new ArrayList<>();
        if (!period.isEmpty()) {
            row.add(names.getOrDefault(ticks, ""));
        }
        row.add(OpcUaTime.toInstant(ticks));
        return row;
    }

    private List<Object> tall(int tag, int index) {
        List<Object> row = head(points.get(tag).ticks(index));
        row.add(tags.get(tag).name());
        Object[] cells = points.get(tag).cells(index);
        Collections.addAll(row, cells);
        if (query.mode() == Mode.AGGREGATED && cells.length == values().size()) {
            row.add(null);
        }
        return row;
    }

    private List<Object> wide(int[] at, long ticks) {
        List<Object> row = head(ticks);
        int beside = values().size();
        for (int i = 0; i < at.length; i++) {
            boolean there = at[i] < points.get(i).size() && points.get(i).ticks(at[i]) == ticks;
            Object[] cells = there ? points.get(i).cells(at[i]++) : new Object[beside];
            row.addAll(Arrays.asList(cells).subList(0, beside));
        }
        return row;
    }
}
