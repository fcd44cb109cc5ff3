package dachshund.links.file;

import dachshund.core.layout.Column;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Conversion;
import dachshund.core.row.Row;
import dachshund.core.text.WorkbookText;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.math.BigDecimal;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Consumer;
import org.apache.poi.ss.usermodel.Cell;
import org.apache.poi.ss.usermodel.CellStyle;
import org.apache.poi.ss.usermodel.DataFormatter;
import org.apache.poi.ss.usermodel.Sheet;
import org.apache.poi.xssf.usermodel.XSSFWorkbook;

/**
 * XLSX workbooks (ISO/IEC 29500). A workbook is read, added to, and put in the place of the old one at once, so there is
 * never half of one. In a template the table lies below the first row that has names of columns; columns that it does not
 * name are left out.
 */
final class WorkbookFile implements RowFile {

    private static final String SHEET = "Rows";
    private static final Instant FIRST_TIME = Instant.parse("1900-01-02T00:00:00Z");
    private static final Instant LAST_TIME = Instant.parse("9999-12-30T00:00:00Z");
    private static final int MOST_CHARACTERS = 32_767;
    private static final DataFormatter FORMATTER = new DataFormatter(java.util.Locale.ROOT);

    private final FileSettings settings;
    private final WorkbookReader reader;

    WorkbookFile(FileSettings settings) {
        this.settings = settings;
        this.reader = new WorkbookReader(settings);
    }

    /** Where the table lies: the row of its header, and the place of each column, -1 where it has none. */
    private record Table(Sheet sheet, int header, int[] places) {

        static Optional<Table> in(XSSFWorkbook workbook, List<Column> columns) {
            for (Sheet sheet : workbook) {
                for (org.apache.poi.ss.usermodel.Row row : sheet) {
                    Map<String, Integer> names = new HashMap<>();
                    row.forEach(cell -> names.putIfAbsent(
                            FORMATTER.formatCellValue(cell).strip().toLowerCase(java.util.Locale.ROOT),
                            cell.getColumnIndex()));
                    Optional<int[]> places = WorkbookReader.places(names, columns);
                    if (places.isPresent()) {
                        return Optional.of(new Table(sheet, row.getRowNum(), places.get()));
                    }
                }
            }
            return Optional.empty();
        }

        /** The first row below the header of which every cell of the table is empty. */
        int end() {
            int at = header + 1;
            while (filled(at)) {
                at++;
            }
            return at;
        }

        boolean filled(int at) {
            org.apache.poi.ss.usermodel.Row row = sheet.getRow(at);
            return row != null
                    && java.util.Arrays.stream(places)
                            .filter(place -> place >= 0)
                            .anyMatch(place -> row.getCell(place) != null
                                    && !FORMATTER
                                            .formatCellValue(row.getCell(place))
                                            .isEmpty());
        }
    }

    private static XSSFWorkbook open(Path file) throws IOException {
        try (InputStream in = Files.newInputStream(file)) {
            return new XSSFWorkbook(in);
        } catch (IllegalArgumentException notOne) {
            throw new IOException(file.getFileName() + " is not a workbook.", notOne);
        }
    }

    @Override
    public boolean fits(Path file, List<Column> columns) throws IOException {
        Optional<int[]> places = reader.places(file, columns);
        return places.isPresent()
                && (!settings.template().isEmpty()
                        || java.util.Arrays.stream(places.get()).noneMatch(place -> place < 0));
    }

    @Override
    public long rows(Path file) throws IOException {
        return reader.rows(file);
    }

    private XSSFWorkbook fresh(List<Column> columns) throws IOException {
        if (!settings.template().isEmpty()) {
            Path template = settings.folder().resolve(settings.template());
            if (!Files.exists(template)) {
                throw new IOException("the template " + settings.template() + " is not in the folder.");
            }
            XSSFWorkbook workbook = open(template);
            if (Table.in(workbook, columns).isEmpty()) {
                throw new IOException(
                        "the template " + settings.template() + " has no row with the names of the columns ("
                                + columns.get(0).name() + ", …).");
            }
            return workbook;
        }
        return bare(columns);
    }

    private static XSSFWorkbook bare(List<Column> columns) {
        XSSFWorkbook workbook = new XSSFWorkbook();
        Sheet sheet = workbook.createSheet(SHEET);
        org.apache.poi.ss.usermodel.Row header = sheet.createRow(0);
        CellStyle bold = workbook.createCellStyle();
        org.apache.poi.ss.usermodel.Font font = workbook.createFont();
        font.setBold(true);
        bold.setFont(font);
        for (int i = 0; i < columns.size(); i++) {
            Cell cell = header.createCell(i);
            cell.setCellValue(columns.get(i).head());
            cell.setCellStyle(bold);
            sheet.setColumnWidth(
                    i, 256 * Math.max(12, Math.min(40, columns.get(i).head().length() + 4)));
        }
        sheet.createFreezePane(0, 1);
        return workbook;
    }

    /** What the format does not hold (ECMA-376 18.2.28, 18.3.1.96; characters as in XML 1.0, 2.2). */
    @Override
    public Optional<String> refusal(List<Column> columns, Row row) {
        for (int i = 0; i < columns.size(); i++) {
            String why = refusal(row.cells()[i]);
            if (!why.isEmpty()) {
                return Optional.of("Column " + columns.get(i).name() + ": " + why + ".");
            }
        }
        return Optional.empty();
    }

    private String refusal(Object cell) {
        if (cell instanceof Instant time) {
            return time.isBefore(FIRST_TIME) || time.isAfter(LAST_TIME)
                    ? "a workbook holds times from 1900 to 9999, not " + time
                    : "";
        }
        if (cell instanceof LocalDate date) {
            return date.getYear() < 1900 || date.getYear() > 9999
                    ? "a workbook holds dates from 1900 to 9999, not " + date
                    : "";
        }
        if (cell instanceof Double number) {
            return number.isNaN() || number.isInfinite() ? "a workbook holds no " + number : "";
        }
        if (cell instanceof String text) {
            if (text.length() > MOST_CHARACTERS) {
                return "a cell of a workbook holds 32,767 characters, not " + text.length();
            }
            return text.codePoints().anyMatch(WorkbookFile::notInXml) ? "a workbook holds no control characters" : "";
        }
        return "";
    }

    private static boolean notInXml(int c) {
        return c < 0x20 && c != '\t' && c != '\n' && c != '\r'
                || c >= 0xD800 && c <= 0xDFFF
                || c == 0xFFFE
                || c == 0xFFFF;
    }

    @Override
    public void append(Path file, List<Column> columns, List<Row> rows) throws IOException {
        try (XSSFWorkbook workbook = Files.exists(file) ? open(file) : fresh(columns)) {
            add(workbook, columns, rows, file);
            Path next = file.resolveSibling("." + file.getFileName() + ".new");
            write(workbook, next);
            try (FileChannel channel = FileChannel.open(next, StandardOpenOption.WRITE)) {
                channel.force(true);
            }
            Files.move(next, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        }
    }

    private static void write(XSSFWorkbook workbook, Path file) throws IOException {
        try (OutputStream out = Files.newOutputStream(file)) {
            workbook.write(out);
        }
    }

    private void add(XSSFWorkbook workbook, List<Column> columns, List<Row> rows, Path file) throws IOException {
        Table table = Table.in(workbook, columns)
                .orElseThrow(() -> new IOException(file.getFileName() + " has no row with the names of the columns."));
        Styles styles = new Styles(workbook);
        int at = table.end();
        for (Row row : rows) {
            org.apache.poi.ss.usermodel.Row line = table.sheet().getRow(at) == null
                    ? table.sheet().createRow(at)
                    : table.sheet().getRow(at);
            for (int i = 0; i < columns.size(); i++) {
                if (table.places()[i] >= 0 && row.cells()[i] != null) {
                    Cell cell = line.getCell(
                            table.places()[i], org.apache.poi.ss.usermodel.Row.MissingCellPolicy.CREATE_NULL_AS_BLANK);
                    set(cell, row.cells()[i], columns.get(i).type(), styles);
                }
            }
            at++;
        }
    }

    /** Cell styles of a workbook, made once each. */
    private static final class Styles {
        private final XSSFWorkbook workbook;
        private final Map<String, CellStyle> made = new HashMap<>();

        Styles(XSSFWorkbook workbook) {
            this.workbook = workbook;
        }

        CellStyle of(String format) {
            return made.computeIfAbsent(format, each -> {
                CellStyle style = workbook.createCellStyle();
                style.setDataFormat(workbook.createDataFormat().getFormat(each));
                return style;
            });
        }
    }

    /** A text is always a text cell, whatever it begins with. A time is a date cell in UTC or plant time. */
    private void set(Cell cell, Object value, SqlType type, Styles styles) {
        if (value instanceof Instant time) {
            LocalDateTime shown = settings.times().equals("plant")
                    ? LocalDateTime.ofInstant(time, settings.zone())
                    : LocalDateTime.ofInstant(time, ZoneOffset.UTC);
            cell.setCellValue(shown);
            cell.setCellStyle(styles.of(type.size() == 0 ? "yyyy-mm-dd hh:mm:ss" : "yyyy-mm-dd hh:mm:ss.000"));
        } else if (value instanceof LocalDate date) {
            cell.setCellValue(date);
            cell.setCellStyle(styles.of("yyyy-mm-dd"));
        } else if (value instanceof Double number) {
            cell.setCellValue(number);
        } else if (value instanceof Long whole && Math.abs(whole) < 1L << 53) {
            cell.setCellValue(whole);
        } else if (value instanceof BigDecimal exact && exact.precision() <= 15) {
            cell.setCellValue(exact.doubleValue());
        } else if (value instanceof Boolean yes) {
            cell.setCellValue(yes);
        } else {
            // What a spreadsheet's number would not hold exactly stays a text.
            cell.setCellValue(WorkbookText.out(Conversion.plain(value)));
        }
    }

    /** A workbook has all of a batch or none: its last rows are compared with the first ones to come. */
    @Override
    public int landed(Path file, List<Column> columns, List<Row> rows) throws IOException {
        List<List<String>> last = last(file, columns, rows.size());
        List<List<String>> wanted = rendered(columns, rows, file);
        for (int count = Math.min(last.size(), wanted.size()); count > 0; count--) {
            if (last.subList(last.size() - count, last.size()).equals(wanted.subList(0, count))) {
                return count;
            }
        }
        return 0;
    }

    /** The rows as they would read in this workbook. */
    private List<List<String>> rendered(List<Column> columns, List<Row> rows, Path file) throws IOException {
        Optional<int[]> places = reader.places(file, columns);
        Path scratch = Files.createTempFile("dachshund-landed", ".xlsx");
        try {
            try (XSSFWorkbook workbook = bare(columns)) {
                add(workbook, columns, rows, file);
                write(workbook, scratch);
            }
            List<List<String>> all = new ArrayList<>();
            reader.each(scratch, columns, row -> {
                for (int i = 0; i < row.size(); i++) {
                    if (places.isPresent() && places.get()[i] < 0) {
                        row.set(i, null);
                    }
                }
                all.add(row);
            });
            return all;
        } finally {
            Files.delete(scratch);
        }
    }

    @Override
    public void each(Path file, List<Column> columns, Consumer<List<String>> taker) throws IOException {
        reader.each(file, columns, taker);
    }

    @Override
    public List<List<String>> last(Path file, List<Column> columns, int limit) throws IOException {
        Deque<List<String>> rows = new ArrayDeque<>();
        reader.each(file, columns, row -> {
            if (rows.size() == limit) {
                rows.removeFirst();
            }
            rows.addLast(row);
        });
        return List.copyOf(rows);
    }
}
