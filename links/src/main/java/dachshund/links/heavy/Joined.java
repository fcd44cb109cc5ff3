package dachshund.links.heavy;

import dachshund.links.heavy.Frames.Kind;
import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.ByteBuffer;
import java.nio.file.Path;
import java.sql.Blob;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Time;
import java.sql.Timestamp;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;

/** Tables of rows, and one query over them. */
final class Joined implements AutoCloseable {

    private static final int AT_ONCE = 128 * 1024;

    /** The driver makes days of these years of what is DuckDB's infinity (seen); its own times end before. */
    private static final int TIMES_END = 294_247;

    private static final int DAYS_END = 5_881_580;
    /** By so many years they begin later than they end. */
    private static final int BEFORE = 3_939;

    private final JoinJob job;
    private final OwnDuck duck;
    private JoinJob.Table shape;
    private RowsTable table;

    Joined(JoinJob job) throws SQLException, IOException {
        this.job = job;
        this.duck = new OwnDuck(Path.of(job.folder()).toAbsolutePath(), Optional.empty(), job.zone());
    }

    int columns() {
        return shape.columns().size();
    }

    /** The rows of another table follow. */
    void table(JoinJob.Table next) throws SQLException {
        finish();
        shape = next;
        table = new RowsTable(
                duck,
                next.name(),
                next.columns().stream().map(JoinJob.Column::name).toList());
    }

    void add(List<Object[]> rows) throws SQLException {
        table.add(rows);
    }

    private void finish() throws SQLException {
        if (table != null) {
            table.finish(shape.columns().stream().map(JoinJob.Column::usual).toList());
            table = null;
        }
    }

    /** @return how many rows were sent */
    long answer(Object[] values, DataOutputStream out) throws SQLException, IOException {
        finish();
        try (PreparedStatement statement = duck.connection().prepareStatement(job.sql())) {
            for (int i = 0; i < values.length; i++) {
                statement.setObject(i + 1, values[i] instanceof Instant at ? at.atOffset(ZoneOffset.UTC) : values[i]);
            }
            try (ResultSet rows = statement.executeQuery()) {
                ResultSetMetaData meta = rows.getMetaData();
                List<JoinJob.Column> columns = new ArrayList<>();
                for (int i = 1; i <= meta.getColumnCount(); i++) {
                    columns.add(new JoinJob.Column(meta.getColumnLabel(i), meta.getColumnTypeName(i)));
                }
                Frames.write(out, Kind.COLUMNS, JoinJob.json(columns));
                return send(rows, columns.size(), out);
            }
        }
    }

    private long send(ResultSet rows, int columns, DataOutputStream out) throws SQLException, IOException {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream(AT_ONCE);
        DataOutputStream cells = new DataOutputStream(bytes);
        cells.writeInt(0);
        int waiting = 0;
        long sent = 0;
        while (sent < job.most() && rows.next()) {
            for (int i = 1; i <= columns; i++) {
                Cells.write(cells, cell(rows, i));
            }
            waiting++;
            sent++;
            if (bytes.size() >= AT_ONCE) {
                flush(bytes, waiting, out);
                cells.writeInt(0);
                waiting = 0;
            }
        }
        if (waiting > 0) {
            flush(bytes, waiting, out);
        }
        return sent;
    }

    private static void flush(ByteArrayOutputStream bytes, int rows, DataOutputStream out) throws IOException {
        byte[] all = bytes.toByteArray();
        ByteBuffer.wrap(all).putInt(0, rows);
        Frames.write(out, Kind.ROWS, all, all.length);
        bytes.reset();
    }

    private static Object cell(ResultSet rows, int at) throws SQLException {
        try {
            Object cell = plain(rows.getObject(at));
            // What is made of several values, and whatever else there is, comes as DuckDB's own text.
            return isKnown(cell) ? cell : rows.getString(at);
        } catch (DateTimeException odd) {
            throw new SQLException(
                    "A cell of " + rows.getMetaData().getColumnLabel(at)
                            + " is a time that cannot be shown, such as 24:00:00. Let the query give it as text: CAST("
                            + rows.getMetaData().getColumnLabel(at) + " AS VARCHAR)",
                    odd);
        }
    }

    private static boolean isKnown(Object cell) {
        return cell == null
                || cell instanceof Long
                || cell instanceof Double
                || cell instanceof BigDecimal
                || cell instanceof BigInteger
                || cell instanceof Boolean
                || cell instanceof String
                || cell instanceof Instant
                || cell instanceof LocalDate
                || cell instanceof LocalTime;
    }

    private static Object plain(Object cell) throws SQLException {
        if (cell instanceof Blob bytes) {
            return "0x" + HexFormat.of().withUpperCase().formatHex(bytes.getBytes(1, (int) bytes.length()));
        }
        if (cell instanceof Byte || cell instanceof Short || cell instanceof Integer) {
            return ((Number) cell).longValue();
        }
        if (cell instanceof Float number) {
            return Double.parseDouble(number.toString());
        }
        if (cell instanceof Double number && !Double.isFinite(number)) {
            return number.toString();
        }
        if (cell instanceof OffsetDateTime time) {
            return isEnd(time.getYear(), TIMES_END) ? infinity(time.getYear()) : time.toInstant();
        }
        if (cell instanceof Timestamp time) {
            return plain(time.toLocalDateTime());
        }
        if (cell instanceof LocalDateTime time) {
            return isEnd(time.getYear(), TIMES_END) ? infinity(time.getYear()) : time.toString();
        }
        if (cell instanceof java.sql.Date day) {
            return plain(day.toLocalDate());
        }
        if (cell instanceof LocalDate day && isEnd(day.getYear(), DAYS_END)) {
            return infinity(day.getYear());
        }
        return cell instanceof Time clock ? clock.toLocalTime() : cell;
    }

    private static boolean isEnd(int year, int end) {
        return year >= end || year <= BEFORE - end;
    }

    private static String infinity(int year) {
        return year < 0 ? "-infinity" : "infinity";
    }

    @Override
    public void close() throws SQLException, IOException {
        duck.close();
    }
}
