package dachshund.office.export;

import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.text.WorkbookText;
import java.io.IOException;
import java.io.OutputStream;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import org.dhatim.fastexcel.Workbook;
import org.dhatim.fastexcel.Worksheet;

/**
 * Rows as a workbook; a sheet ends at 1,048,576 rows, and the next one begins. What a cell would change is written as text:
 * numbers of more than 15 digits, times before 1900. A text that is longer than a cell may be ends with a word that says so.
 */
final class WorkbookOut implements TableOut {

    /** Of a sheet, and letters of a cell (ECMA-376 gives no limits; these are the usual programs', common practice, no source). */
    private static final int MOST_ROWS = 1_048_576;

    private static final int MOST_LETTERS = 32_767;
    private static final int DIGITS = 15;
    private static final long MOST_WHOLE = 999_999_999_999_999L;
    private static final int FLUSH_EVERY = 1000;
    private static final LocalDateTime FIRST = LocalDateTime.of(1900, 3, 1, 0, 0);
    private static final LocalDateTime LAST = LocalDateTime.of(9999, 12, 31, 23, 59, 59);

    private final Workbook workbook;
    private List<TableShape.Column> columns = List.of();
    private Worksheet sheet;
    private int sheets;
    private int row;

    WorkbookOut(OutputStream to) {
        workbook = new Workbook(new NotClosed(to), "Dachshund", "1.0");
    }

    @Override
    public void columns(List<TableShape.Column> heads) throws IOException {
        columns = heads;
        next();
    }

    private void next() throws IOException {
        if (sheet != null) {
            sheet.finish();
        }
        sheets++;
        sheet = workbook.newWorksheet("Rows" + (sheets == 1 ? "" : " " + sheets));
        sheet.freezePane(0, 1);
        for (int i = 0; i < columns.size(); i++) {
            TableShape.Column column = columns.get(i);
            sheet.value(0, i, WorkbookText.out(column.name()) + (column.sort() == Sort.STAMP ? " (UTC)" : ""));
            sheet.style(0, i).bold().set();
            sheet.width(i, column.sort() == Sort.STAMP ? 24 : 16);
        }
        row = 1;
    }

    @Override
    public void row(List<Object> cells) throws IOException {
        if (row == MOST_ROWS) {
            next();
        }
        for (int i = 0; i < columns.size(); i++) {
            put(i, cells.get(i));
        }
        row++;
        if (row % FLUSH_EVERY == 0) {
            sheet.flush();
        }
    }

    private void put(int at, Object cell) {
        if (cell == null) {
            return;
        }
        if (cell instanceof Boolean yes) {
            sheet.value(row, at, yes);
        } else if (cell instanceof Long whole && Math.abs(whole) <= MOST_WHOLE) {
            sheet.value(row, at, whole);
        } else if (cell instanceof Double number) {
            sheet.value(row, at, number);
        } else if (cell instanceof BigDecimal exact
                && exact.stripTrailingZeros().precision() <= DIGITS) {
            sheet.value(row, at, exact);
        } else if (cell instanceof BigDecimal exact) {
            sheet.value(row, at, exact.toPlainString());
        } else if (cell instanceof BigInteger large) {
            sheet.value(row, at, large.toString());
        } else if (cell instanceof Instant time && holds(LocalDateTime.ofInstant(time, ZoneOffset.UTC))) {
            sheet.value(row, at, LocalDateTime.ofInstant(time, ZoneOffset.UTC));
            sheet.style(row, at).format("yyyy-mm-dd hh:mm:ss.000").set();
        } else if (cell instanceof LocalDate day && holds(day.atStartOfDay())) {
            sheet.value(row, at, day);
            sheet.style(row, at).format("yyyy-mm-dd").set();
        } else {
            sheet.value(row, at, WorkbookText.out(held(cell.toString())));
        }
    }

    private static String held(String text) {
        if (text.length() <= MOST_LETTERS) {
            return text;
        }
        String told =
                "… [cut: it has " + text.length() + " letters, and a cell of a workbook holds " + MOST_LETTERS + "]";
        int end = MOST_LETTERS - told.length();
        return text.substring(0, Character.isHighSurrogate(text.charAt(end - 1)) ? end - 1 : end) + told;
    }

    private static boolean holds(LocalDateTime time) {
        return !time.isBefore(FIRST) && !time.isAfter(LAST);
    }

    @Override
    public void finish() throws IOException {
        if (sheet == null) {
            next();
        }
        workbook.finish();
    }

    @Override
    public void close() {
        // What is not finished is no workbook; the stream is another's.
    }
}
