package dachshund.drill.simulation;

import dachshund.core.definition.RecorderDefinition;
import dachshund.core.definition.RecorderDefinition.Where;
import dachshund.core.destination.WriteMode;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.layout.Upkeep;
import dachshund.core.tag.TagRef;
import dachshund.core.when.Deadband;
import dachshund.core.when.When;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** What is recorded in a simulation: every change of some tags, and one by the clock. */
enum Records {
    /** Found again by the row identity in its table. */
    BY_ROW_ID("00000001", "one", List.of("a"), true, false),
    /** Found again by the delivery mark alone. */
    BY_MARK("00000002", "two", List.of("a"), false, true),
    /** In two destinations. */
    IN_BOTH("00000003", "three", List.of("a", "b"), true, true),
    IN_THE_OTHER("00000004", "four", List.of("b"), true, false),
    BY_THE_CLOCK("00000005", "", List.of("a"), true, false),
    /** Into the second one while the first is away. */
    WITH_STANDBY("00000006", "five", List.of("a", "b"), true, true),
    /** Into a table a minute. */
    BY_PATTERN("00000007", "six", List.of("a"), true, false);

    static final String SOURCE = "50000001";
    /** The column of what the plant said. */
    static final String VALUE = "v";

    final String id;
    /** The tag whose changes it records; empty where it records by the clock. */
    final String tag;

    final List<String> destinations;
    private final boolean rowId;
    private final boolean mark;

    Records(String id, String tag, List<String> destinations, boolean rowId, boolean mark) {
        this.id = id;
        this.tag = tag;
        this.destinations = destinations;
        this.rowId = rowId;
        this.mark = mark;
    }

    /** Whether a row goes to one of its destinations, and not to each. */
    boolean either() {
        return this == WITH_STANDBY;
    }

    /** Where its rows are: the tables whose names begin so. */
    String tables() {
        return "t" + id;
    }

    private String table() {
        return this == BY_PATTERN ? tables() + "_{mm}" : tables();
    }

    private Where where(String destination) {
        String standbyFor = either() && !destination.equals(destinations.get(0)) ? destinations.get(0) : "";
        return new Where(destination, table(), new Upkeep(true, true), mark, new WriteMode.Insert(), standbyFor);
    }

    /** Whether rows of it that may have been written can be looked up in a table. */
    boolean found() {
        return rowId;
    }

    /** @param wider with a column more */
    RecorderDefinition design(boolean wider) {
        List<Column> columns = new ArrayList<>(Layout.proposed().columns().stream()
                .filter(column -> rowId || !column.isRowId())
                .toList());
        ColumnSource value =
                new ColumnSource.FromTag(new TagRef(SOURCE, tag.isEmpty() ? "one" : tag), ColumnSource.Aspect.VALUE);
        columns.add(Column.of(VALUE, SqlType.DOUBLE, value));
        if (wider) {
            columns.add(
                    Column.of("w", SqlType.timestamp(3), new ColumnSource.FromRun(ColumnSource.Variable.RECORD_TIME)));
        }
        When when = tag.isEmpty()
                ? new When.Every(Duration.ofSeconds(1))
                : new When.OnChange(Deadband.NONE, List.of(new TagRef(SOURCE, tag)), Duration.ZERO, Duration.ZERO);
        return new RecorderDefinition(
                id,
                name(),
                "",
                List.of(when),
                new Layout(columns),
                destinations.stream().map(this::where).toList());
    }

    static Optional<Records> of(String tag) {
        return List.of(values()).stream().filter(each -> each.tag.equals(tag)).findFirst();
    }
}
