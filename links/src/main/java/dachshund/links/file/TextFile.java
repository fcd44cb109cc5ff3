package dachshund.links.file;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.core.layout.Column;
import dachshund.core.layout.SqlType;
import dachshund.core.row.Row;
import dachshund.core.row.RowJson;
import dachshund.core.text.SafeCell;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import de.siegmar.fastcsv.reader.FieldMismatchStrategy;
import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import java.io.BufferedReader;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.Reader;
import java.io.StringReader;
import java.io.StringWriter;
import java.io.Writer;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.channels.OverlappingFileLockException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;

/** CSV (RFC 4180) and JSON Lines (RFC 8259, one object a line): rows are appended as bytes. */
final class TextFile implements RowFile {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final int TAIL = 512 * 1024;
    private static final byte[] MARK = {(byte) 0xEF, (byte) 0xBB, (byte) 0xBF};

    private final FileSettings settings;
    private final CellText cells;
    private final boolean json;

    TextFile(FileSettings settings) {
        this.settings = settings;
        this.cells = new CellText(settings);
        this.json = settings.format().equals("jsonl");
    }

    @Override
    public Optional<String> refusal(List<Column> columns, Row row) {
        if (json || settings.encoding().equals(StandardCharsets.UTF_8)) {
            return Optional.empty();
        }
        java.nio.charset.CharsetEncoder encoder = settings.encoding().newEncoder();
        for (int i = 0; i < columns.size(); i++) {
            if (row.cells()[i] instanceof String text && !encoder.canEncode(text)) {
                String letters = text.codePoints()
                        .mapToObj(Character::toString)
                        .filter(letter -> !encoder.canEncode(letter))
                        .distinct()
                        .limit(5)
                        .collect(java.util.stream.Collectors.joining(" "));
                return Optional.of("Column " + columns.get(i).name() + ": the file's encoding (Windows-1252) has no "
                        + letters + ".");
            }
        }
        return Optional.empty();
    }

    private byte[] render(List<Column> columns, List<Row> rows) throws IOException {
        StringWriter text = new StringWriter(rows.size() * columns.size() * 12);
        SqlType[] types = columns.stream().map(Column::type).toArray(SqlType[]::new);
        if (json) {
            for (Row row : rows) {
                text.append(RowJson.write(columns, cells.json(row.cells(), types)))
                        .append('\n');
            }
            return text.toString().getBytes(StandardCharsets.UTF_8);
        }
        String[] fields = new String[types.length];
        try (CsvWriter csv = csv(text)) {
            for (Row row : rows) {
                for (int i = 0; i < fields.length; i++) {
                    fields[i] = cells.csv(row.cells()[i], types[i]);
                }
                csv.writeRecord(fields);
            }
        }
        return text.toString().getBytes(settings.encoding());
    }

    private CsvWriter csv(Writer text) {
        return CsvWriter.builder()
                .fieldSeparator(settings.separator())
                .lineDelimiter(LineDelimiter.CRLF)
                .build(text);
    }

    private byte[] head(List<Column> columns) throws IOException {
        if (json) {
            return new byte[0];
        }
        ByteArrayOutputStream out = new ByteArrayOutputStream();
        if (settings.mark()) {
            out.write(MARK);
        }
        if (settings.header()) {
            StringWriter text = new StringWriter();
            try (CsvWriter csv = csv(text)) {
                csv.writeRecord(
                        columns.stream().map(Column::head).map(SafeCell::out).toList());
            }
            out.write(text.toString().getBytes(settings.encoding()));
        }
        return out.toByteArray();
    }

    @Override
    public boolean fits(Path file, List<Column> columns) throws IOException {
        byte[] head = head(columns);
        if (Files.size(file) < head.length) {
            return Files.size(file) == 0;
        }
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.READ)) {
            ByteBuffer start = ByteBuffer.allocate(head.length);
            while (start.hasRemaining() && channel.read(start) >= 0) {
                // reads on
            }
            return Arrays.equals(head, start.array());
        }
    }

    @Override
    public long rows(Path file) throws IOException {
        if (json) {
            try (java.util.stream.Stream<String> lines = Files.lines(file)) {
                return lines.count();
            }
        }
        try (CsvReader<CsvRecord> reader = reader().ofCsvRecord(Files.newBufferedReader(file, settings.encoding()))) {
            return reader.stream().count() - (settings.header() ? 1 : 0);
        }
    }

    @Override
    public void append(Path file, List<Column> columns, List<Row> rows) throws IOException {
        byte[] bytes = render(columns, rows);
        try (FileChannel channel = FileChannel.open(
                        file, StandardOpenOption.READ, StandardOpenOption.WRITE, StandardOpenOption.CREATE);
                FileLock lock = lock(channel, file)) {
            long end = channel.size();
            byte[] before = end == 0
                    ? head(columns)
                    : endsALine(channel, end) ? new byte[0] : "\r\n".getBytes(StandardCharsets.US_ASCII);
            try {
                write(channel, end, before);
                write(channel, end + before.length, bytes);
                channel.force(true);
            } catch (IOException e) {
                channel.truncate(end);
                throw e;
            }
        }
    }

    private static void write(FileChannel channel, long at, byte[] bytes) throws IOException {
        ByteBuffer buffer = ByteBuffer.wrap(bytes);
        while (buffer.hasRemaining()) {
            channel.write(buffer, at + buffer.position());
        }
    }

    private static boolean endsALine(FileChannel channel, long end) throws IOException {
        ByteBuffer last = ByteBuffer.allocate(1);
        channel.read(last, end - 1);
        return last.get(0) == '\n' || end == MARK.length;
    }

    private static FileLock lock(FileChannel channel, Path file) throws IOException {
        try {
            FileLock lock = channel.tryLock();
            if (lock == null) {
                throw new FileStore.InUse(file);
            }
            return lock;
        } catch (OverlappingFileLockException ours) {
            throw new FileStore.InUse(file);
        }
    }

    /**
     * The longest beginning of the rows' bytes that is an ending of the file and stands at the beginning of a line: complete
     * rows in it have landed, the rest was torn.
     */
    @Override
    public int landed(Path file, List<Column> columns, List<Row> rows) throws IOException {
        byte[] rendered = render(columns, rows);
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.READ, StandardOpenOption.WRITE);
                FileLock lock = lock(channel, file)) {
            long size = channel.size();
            int length = (int) Math.min(size, rendered.length);
            ByteBuffer tail = ByteBuffer.allocate(length);
            while (tail.hasRemaining() && channel.read(tail, size - length + tail.position()) >= 0) {
                // reads on
            }
            for (int match : Overlap.lengths(rendered, tail.array())) {
                long start = size - match;
                if (start == 0 || endsALine(channel, start)) {
                    int complete = 0;
                    int end = 0;
                    for (int next = 0;
                            complete < rows.size()
                                    && (next = end + render(columns, rows.subList(complete, complete + 1)).length)
                                            <= match;
                            complete++) {
                        end = next;
                    }
                    long kept = start + end;
                    if (kept < size) {
                        channel.truncate(kept);
                        channel.force(true);
                    }
                    return complete;
                }
            }
            return 0;
        }
    }

    @Override
    public List<List<String>> last(Path file, List<Column> columns, int limit) throws IOException {
        String text;
        boolean whole;
        try (FileChannel channel = FileChannel.open(file, StandardOpenOption.READ)) {
            long size = channel.size();
            long wanted = limit == Integer.MAX_VALUE ? size : Math.min(size, TAIL);
            whole = size == wanted;
            ByteBuffer tail = ByteBuffer.allocate(Math.toIntExact(wanted));
            while (tail.hasRemaining() && channel.read(tail, size - tail.capacity() + tail.position()) >= 0) {
                // reads on
            }
            text = new String(tail.array(), settings.encoding());
        }
        String lines =
                whole ? text.startsWith("\uFEFF") ? text.substring(1) : text : text.substring(text.indexOf('\n') + 1);
        List<List<String>> found =
                json ? jsonLines(lines, columns) : csv(lines, columns.size(), whole && settings.header());
        return found.subList(Math.max(0, found.size() - limit), found.size());
    }

    /** A line at a time, so that a file of any size goes out without being held. */
    @Override
    public void each(Path file, List<Column> columns, Consumer<List<String>> taker) throws IOException {
        try (BufferedReader in =
                new BufferedReader(new InputStreamReader(Files.newInputStream(file), settings.encoding()))) {
            in.mark(1);
            if (in.read() != '\uFEFF') {
                in.reset();
            }
            if (json) {
                eachJson(in, columns, taker);
            } else {
                eachCsv(in, columns.size(), settings.header(), taker);
            }
        }
    }

    private static void eachJson(BufferedReader in, List<Column> columns, Consumer<List<String>> taker)
            throws IOException {
        String line = in.readLine();
        while (line != null) {
            String next = in.readLine();
            try {
                if (!line.isBlank()) {
                    taker.accept(json(line, columns));
                }
            } catch (JsonProcessingException torn) {
                if (next != null) {
                    throw torn;
                }
            }
            line = next;
        }
    }

    private static List<List<String>> jsonLines(String lines, List<Column> columns) throws IOException {
        List<List<String>> found = new ArrayList<>();
        eachJson(new BufferedReader(new StringReader(lines)), columns, found::add);
        return found;
    }

    private static List<String> json(String line, List<Column> columns) throws JsonProcessingException {
        JsonNode row = JSON.readTree(line);
        return columns.stream()
                .map(column -> {
                    JsonNode cell = row.at("/"
                            + column.name()
                                    .replace("~", "~0")
                                    .replace("/", "~1")
                                    .replace('.', '/'));
                    return cell.isMissingNode() ? null : cell.isValueNode() ? cell.asText() : cell.toString();
                })
                .toList();
    }

    /** A torn row at the end has other fields than it should: it is left out, and not a reason to show nothing. */
    private CsvReader.CsvReaderBuilder reader() {
        return CsvReader.builder()
                .fieldSeparator(settings.separator())
                .missingFieldStrategy(FieldMismatchStrategy.IGNORE)
                .extraFieldStrategy(FieldMismatchStrategy.IGNORE)
                .allowUnclosedQuote(true);
    }

    private void eachCsv(Reader in, int width, boolean header, Consumer<List<String>> taker) throws IOException {
        try (CsvReader<CsvRecord> csv = reader().ofCsvRecord(in)) {
            csv.stream()
                    .map(CsvRecord::getFields)
                    .filter(fields -> fields.size() == width)
                    .skip(header ? 1 : 0)
                    .forEach(taker);
        }
    }

    private List<List<String>> csv(String lines, int width, boolean header) throws IOException {
        List<List<String>> all = new ArrayList<>();
        eachCsv(new StringReader(lines), width, header, all::add);
        return all;
    }
}
