package dachshund.links.file;

import dachshund.core.layout.Column;
import dachshund.core.layout.SqlType;
import dachshund.core.text.WorkbookText;
import java.io.IOException;
import java.math.BigDecimal;
import java.nio.file.Path;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Iterator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.apache.poi.ss.usermodel.DateUtil;
import org.dhatim.fastexcel.reader.Cell;
import org.dhatim.fastexcel.reader.CellType;
import org.dhatim.fastexcel.reader.ExcelReaderException;
import org.dhatim.fastexcel.reader.ReadableWorkbook;
import org.dhatim.fastexcel.reader.Row;
import org.dhatim.fastexcel.reader.Sheet;

/** Reads the rows of a workbook one after the other: of a long one, only its texts are in memory at once. */
final class WorkbookReader {

    private final FileSettings settings;
    private final CellText texts;

    WorkbookReader(FileSettings settings) {
        this.settings = settings;
        this.texts = new CellText(settings);
    }

    /** The place of each column in a row of names, -1 where it has none; empty where this is no such row. */
    static Optional<int[]> places(Map<String, Integer> names, List<Column> columns) {
        int[] places = columns.stream()
                .mapToInt(column -> names.getOrDefault(
                        column.head().toLowerCase(Locale.ROOT),
                        names.getOrDefault(column.name().toLowerCase(Locale.ROOT), -1)))
                .toArray();
        return Arrays.stream(places).filter(place -> place >= 0).count() >= Math.min(2, columns.size())
                ? Optional.of(places)
                : Optional.empty();
    }

    /** Where the columns are in the table of the workbook; empty where it has none. */
    Optional<int[]> places(Path file, List<Column> columns) throws IOException {
        return read(file, columns, false, row -> {});
    }

    /** Every row of the table, as text by column in the order of the columns; null for nothing. */
    void each(Path file, List<Column> columns, Consumer<List<String>> taker) throws IOException {
        read(file, columns, true, taker);
    }

    /** How many rows the first sheet has below its first one. */
    long rows(Path file) throws IOException {
        try (ReadableWorkbook workbook = open(file);
                Stream<Row> rows = workbook.getFirstSheet().openStream()) {
            return Math.max(0, rows.mapToInt(Row::getRowNum).max().orElse(1) - 1);
        } catch (ExcelReaderException e) {
            throw notOne(file, e);
        }
    }

    private static ReadableWorkbook open(Path file) throws IOException {
        try {
            return new ReadableWorkbook(file.toFile());
        } catch (ExcelReaderException e) {
            throw notOne(file, e);
        }
    }

    private static IOException notOne(Path file, RuntimeException why) {
        return new IOException(file.getFileName() + " is not a workbook.", why);
    }

    private Optional<int[]> read(Path file, List<Column> columns, boolean rows, Consumer<List<String>> taker)
            throws IOException {
        try (ReadableWorkbook workbook = open(file)) {
            for (Sheet sheet : (Iterable<Sheet>) workbook.getSheets()::iterator) {
                try (Stream<Row> lines = sheet.openStream()) {
                    Iterator<Row> at = lines.iterator();
                    while (at.hasNext()) {
                        Row line = at.next();
                        Optional<int[]> places = places(names(line), columns);
                        if (places.isPresent()) {
                            if (rows) {
                                below(workbook.isDate1904(), line.getRowNum(), at, places.get(), columns, taker);
                            }
                            return places;
                        }
                    }
                }
            }
            return Optional.empty();
        } catch (ExcelReaderException e) {
            throw notOne(file, e);
        }
    }

    private static Map<String, Integer> names(Row line) {
        Map<String, Integer> names = new HashMap<>();
        for (Cell cell : line) {
            if (cell != null) {
                names.putIfAbsent(cell.getText().strip().toLowerCase(Locale.ROOT), cell.getColumnIndex());
            }
        }
        return names;
    }

    /** The table ends at the first row of which every cell of it is empty. */
    private void below(
            boolean from1904,
            int header,
            Iterator<Row> lines,
            int[] places,
            List<Column> columns,
            Consumer<List<String>> taker) {
        for (int wanted = header + 1; lines.hasNext(); wanted++) {
            Row line = lines.next();
            String[] cells = new String[places.length];
            for (int i = 0; i < places.length; i++) {
                cells[i] = places[i] < 0
                        ? null
                        : text(
                                line.getOptionalCell(places[i]).orElse(null),
                                columns.get(i).type(),
                                from1904);
            }
            if (line.getRowNum() != wanted || Arrays.stream(cells).allMatch(cell -> cell == null || cell.isEmpty())) {
                return;
            }
            taker.accept(Arrays.asList(cells));
        }
    }

    /** @param from1904 whether days of this workbook are counted from 1904 (ISO/IEC 29500-1, 18.2.28; from memory) */
    private String text(Cell cell, SqlType type, boolean from1904) {
        if (cell == null || cell.getType() == CellType.EMPTY) {
            return null;
        }
        if (cell.getType() == CellType.NUMBER) {
            double number = Double.parseDouble(cell.getRawValue());
            if (type.family() == SqlType.Family.TIMESTAMP || type.family() == SqlType.Family.DATE) {
                LocalDateTime at = DateUtil.getLocalDateTime(number, from1904);
                return type.family() == SqlType.Family.DATE
                        ? at.toLocalDate().toString()
                        : settings.times().equals("plant")
                                ? at.atZone(settings.zone()).toOffsetDateTime().toString()
                                : at.toInstant(ZoneOffset.UTC).toString();
            }
            return texts.csv(
                    type.family() == SqlType.Family.DOUBLE
                            ? (Object) number
                            : BigDecimal.valueOf(number).stripTrailingZeros(),
                    type);
        }
        return cell.getType() == CellType.BOOLEAN
                ? Boolean.toString(cell.asBoolean())
                : WorkbookText.in(cell.getText());
    }
}
