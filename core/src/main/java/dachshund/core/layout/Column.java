package dachshund.core.layout;

/**
 * One column of a layout, or one field of its document.
 *
 * @param name       any characters; the dialect quotes them
 * @param type       what it holds
 * @param from       where its value comes from
 * @param required   a row without a value here is set aside
 * @param badQuality what happens when its tag is bad; of no meaning for other sources
 * @param treatment  what is done to the value before it is written
 * @param heading    what stands above it in a file, such as the name with its unit; empty for the name
 */
public record Column(
        String name,
        SqlType type,
        ColumnSource from,
        boolean required,
        BadQuality badQuality,
        Treatment treatment,
        String heading) {

    public Column(
            String name,
            SqlType type,
            ColumnSource from,
            boolean required,
            BadQuality badQuality,
            Treatment treatment) {
        this(name, type, from, required, badQuality, treatment, "");
    }

    public Column(String name, SqlType type, ColumnSource from, boolean required, BadQuality badQuality) {
        this(name, type, from, required, badQuality, Treatment.NONE);
    }

    public static Column of(String name, SqlType type, ColumnSource from) {
        return new Column(name, type, from, false, BadQuality.WRITE_NULL);
    }

    public Column named(String other) {
        return new Column(other, type, from, required, badQuality, treatment, heading);
    }

    public Column typed(SqlType other) {
        return new Column(name, other, from, required, badQuality, treatment, heading);
    }

    public Column from(ColumnSource other) {
        return new Column(name, type, other, required, badQuality, treatment, heading);
    }

    public Column treated(Treatment other) {
        return new Column(name, type, from, required, badQuality, other, heading);
    }

    public Column headed(String other) {
        return new Column(name, type, from, required, badQuality, treatment, other);
    }

    /** What stands above it in a file. */
    public String head() {
        return heading.isEmpty() ? name : heading;
    }

    public boolean isAutoNumber() {
        return from instanceof ColumnSource.AutoNumber;
    }

    public boolean isRowId() {
        return from.equals(new ColumnSource.FromRun(ColumnSource.Variable.ROW_ID));
    }

    public boolean isRecordTime() {
        return from.equals(new ColumnSource.FromRun(ColumnSource.Variable.RECORD_TIME));
    }
}
