package dachshund.links.file;

import dachshund.core.destination.RowBatch;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.StoreProblem.Kind;
import dachshund.core.destination.TableDescription;
import dachshund.core.destination.TryOutcome;
import dachshund.core.layout.Column;
import dachshund.core.layout.Layout;
import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import dachshund.core.source.LinkTest;
import dachshund.core.sql.Dialect;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Rows into files of one folder. A place is a series of files: {@code name.csv}, then {@code name_2.csv} and so on, when the
 * last is full or has other columns. Nothing is kept open, so a person can open a file between two writes; while somebody
 * else holds one, its rows wait.
 */
final class FileStore implements RowStore {

    private static final Logger LOG = LoggerFactory.getLogger(FileStore.class);
    private static final long COUNT_AGAIN_MILLIS = 60_000;

    private final FileSettings settings;
    private final RowFile format;
    private final Map<String, Integer> lastNumbers = new ConcurrentHashMap<>();
    private final Map<Path, Long> rowCounts = new HashMap<>();
    private long used = -1;
    private long countedAt;

    /** A file is open elsewhere. */
    static final class InUse extends IOException {
        InUse(Path file) {
            super("The file " + file.getFileName() + " is held open by another program.");
        }
    }

    FileStore(FileSettings settings) {
        this.settings = settings;
        this.format = settings.format().equals("xlsx") ? new WorkbookFile(settings) : new TextFile(settings);
    }

    @Override
    public Dialect dialect() {
        return new FileDialect();
    }

    @Override
    public LinkTest test(Duration limit) {
        try {
            settings.root().check(settings.folder());
            Files.createDirectories(settings.folder());
            Path probe = Files.createTempFile(settings.folder(), ".try", "");
            Files.delete(probe);
            long free = settings.folder().toFile().getUsableSpace();
            if (!settings.template().isEmpty()
                    && !Files.exists(settings.folder().resolve(settings.template()))) {
                return LinkTest.failed(
                        "The folder can be written, but the template " + settings.template() + " is not in it.",
                        "template");
            }
            return LinkTest.good(
                    "The folder " + settings.folder().getFileName() + " can be written; its disk has "
                            + free / (1024 * 1024 * 1024) + " GB left.",
                    settings.folder().getFileName().toString());
        } catch (IOException e) {
            return LinkTest.failed(
                    e instanceof Inside.Left ? e.getMessage() : "The folder cannot be written: " + reason(e) + ".",
                    "folder");
        }
    }

    static String reason(IOException e) {
        if (e instanceof java.nio.file.AccessDeniedException) {
            return "this user may not";
        }
        if (e instanceof java.nio.file.FileSystemException about && about.getReason() != null) {
            return about.getReason();
        }
        return String.valueOf(e.getMessage());
    }

    /** Names of the files without their extension, newest first. */
    @Override
    public synchronized List<String> tables() throws StoreProblem {
        if (!Files.isDirectory(settings.folder())) {
            return List.of();
        }
        inside(settings.folder());
        try (Stream<Path> files = Files.walk(settings.folder())) {
            return files.filter(file -> file.getFileName().toString().endsWith(settings.extension())
                            && !file.getFileName().toString().startsWith("."))
                    .sorted((a, b) -> modified(b).compareTo(modified(a)))
                    .map(file -> settings.folder()
                            .relativize(file)
                            .toString()
                            .replaceFirst(Pattern.quote(settings.extension()) + "$", ""))
                    .toList();
        } catch (IOException e) {
            throw problem(e);
        }
    }

    private void inside(Path path) throws StoreProblem {
        try {
            settings.root().check(path);
        } catch (IOException left) {
            throw problem(left);
        }
    }

    private static FileTime modified(Path file) {
        try {
            return Files.getLastModifiedTime(file);
        } catch (IOException gone) {
            return FileTime.fromMillis(0);
        }
    }

    /** A file is made by its first row; there is nothing to compare it with. */
    @Override
    public Optional<TableDescription> describe(String table) {
        return Optional.empty();
    }

    @Override
    public void apply(List<String> statements) {
        // files are made by their first row
    }

    private Path file(String place, int number) {
        String name = place.endsWith(settings.extension())
                ? place.substring(0, place.length() - settings.extension().length())
                : place;
        return settings.folder().resolve(name + (number == 1 ? "" : "_" + number) + settings.extension());
    }

    /** The number of the last file of a series; 0 where there is none. */
    private int last(String place) {
        Integer known = lastNumbers.get(place);
        if (known == null || !Files.exists(file(place, known)) || Files.exists(file(place, known + 1))) {
            known = newest(place);
            lastNumbers.put(place, known);
        }
        return known;
    }

    private int newest(String place) {
        Path first = file(place, 1);
        String name = first.getFileName().toString();
        Pattern series = Pattern.compile(Pattern.quote(
                        name.substring(0, name.length() - settings.extension().length())) + "(?:_(\\d{1,9}))?"
                + Pattern.quote(settings.extension()));
        if (!Files.isDirectory(first.getParent())) {
            return 0;
        }
        try (Stream<Path> files = Files.list(first.getParent())) {
            return files.map(file -> series.matcher(file.getFileName().toString()))
                    .filter(Matcher::matches)
                    .mapToInt(number -> number.group(1) == null ? 1 : Integer.parseInt(number.group(1)))
                    .max()
                    .orElse(0);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** The file that rows go on in: the last of the series, or a new one. */
    private Path current(RowBatch batch) throws IOException {
        int number = last(batch.table());
        if (number == 0) {
            return file(batch.table(), 1);
        }
        Path file = file(batch.table(), number);
        boolean full = settings.newFileBytes() > 0 && Files.size(file) >= settings.newFileBytes()
                || settings.newFileRows() > 0 && count(file) >= settings.newFileRows();
        return full || !format.fits(file, batch.layout().written()) ? file(batch.table(), number + 1) : file;
    }

    private long count(Path file) throws IOException {
        Long known = rowCounts.get(file);
        if (known == null) {
            known = format.rows(file);
            rowCounts.put(file, known);
        }
        return known;
    }

    /** Each file is a place of its own: what keeps one from being written does not keep the others. */
    @Override
    public boolean allOrNothing() {
        return false;
    }

    @Override
    public synchronized void write(List<RowBatch> batches) throws StoreProblem {
        quota();
        for (int i = 0; i < batches.size(); i++) {
            refuse(batches.get(i), i);
        }
        Map<Path, Long> lengths = new HashMap<>();
        int at = 0;
        boolean done = false;
        Path file = null;
        try {
            for (; at < batches.size(); at++) {
                RowBatch batch = batches.get(at);
                file = file(batch.table(), 1);
                settings.root().check(file);
                file = current(batch);
                settings.root().check(file);
                heldOpen(file);
                Files.createDirectories(file.getParent());
                long before = Files.exists(file) ? Files.size(file) : -1;
                lengths.putIfAbsent(file, before);
                format.append(file, batch.layout().written(), batch.rows());
                used += Files.size(file) - Math.max(0, before);
                rowCounts.computeIfPresent(
                        file, (each, rows) -> rows + batch.rows().size());
            }
            done = true;
        } catch (IOException e) {
            throw problem(e, at, file);
        } finally {
            if (!done) {
                takeBack(lengths);
            }
        }
    }

    /** Before anything is written: a row that the file cannot hold is nobody else's trouble. */
    private void refuse(RowBatch batch, int at) throws StoreProblem {
        List<Column> columns = batch.layout().written();
        for (Row row : batch.rows()) {
            Optional<String> why = format.refusal(columns, row);
            if (why.isPresent()) {
                throw new StoreProblem(Kind.CONTENT, at, why.get(), null);
            }
        }
    }

    /** All of them or none: what was appended before one failed is cut off again. A workbook stays; its rows are found there. */
    private void takeBack(Map<Path, Long> lengths) {
        rowCounts.keySet().removeAll(lengths.keySet());
        lengths.forEach((file, length) -> {
            if (format instanceof TextFile && Files.exists(file)) {
                try (java.nio.channels.FileChannel channel =
                        java.nio.channels.FileChannel.open(file, java.nio.file.StandardOpenOption.WRITE)) {
                    if (channel.size() > Math.max(0, length)) {
                        channel.truncate(Math.max(0, length));
                    }
                    channel.force(true);
                } catch (IOException e) {
                    LOG.error(
                            "{} could not be taken back to {} bytes; its last rows may be there twice.",
                            file.getFileName(),
                            length,
                            e);
                }
            }
        });
    }

    /** Programs that do not lock a file say so with another one beside it. */
    private static void heldOpen(Path file) throws InUse {
        String name = file.getFileName().toString();
        for (String lock : List.of(".~lock." + name + "#", "~$" + name)) {
            if (Files.exists(file.resolveSibling(lock))) {
                throw new InUse(file);
            }
        }
    }

    private void quota() throws StoreProblem {
        if (settings.quotaBytes() == 0) {
            return;
        }
        long now = System.nanoTime() / 1_000_000;
        if (used < 0 || now - countedAt > COUNT_AGAIN_MILLIS) {
            used = size();
            countedAt = now;
        }
        if (used >= settings.quotaBytes()) {
            used = -1;
            throw new StoreProblem(
                    Kind.AWAY,
                    -1,
                    "The folder " + settings.folder().getFileName() + " has reached its "
                            + settings.quotaBytes() / (1024 * 1024) + " MB. Remove files, or allow it more.",
                    null);
        }
    }

    private long size() throws StoreProblem {
        if (!Files.isDirectory(settings.folder())) {
            return 0;
        }
        try (Stream<Path> files = Files.walk(settings.folder())) {
            return files.filter(Files::isRegularFile)
                    .mapToLong(file -> file.toFile().length())
                    .sum();
        } catch (IOException | UncheckedIOException e) {
            throw new StoreProblem(
                    Kind.AWAY, -1, "The folder " + settings.folder().getFileName() + " cannot be read.", e);
        }
    }

    private StoreProblem problem(IOException e) {
        return problem(e, -1, null);
    }

    /** @param file the one that it is about; null where it is about none */
    private StoreProblem problem(IOException e, int batch, Path file) {
        if (e instanceof Inside.Left) {
            return new StoreProblem(Kind.TABLE, batch, e.getMessage(), e);
        }
        if (e instanceof InUse) {
            return new StoreProblem(Kind.BUSY, batch, e.getMessage(), e);
        }
        if (e.getMessage() != null && e.getMessage().startsWith("the template")) {
            return new StoreProblem(Kind.TABLE, batch, "No workbook was made: " + e.getMessage(), e);
        }
        String folder = String.valueOf(settings.folder().getFileName());
        boolean full = String.valueOf(e.getMessage()).contains("No space left");
        if (file != null && !full && Files.isDirectory(settings.folder()) && Files.isWritable(settings.folder())) {
            // One file that cannot be written is a matter of its own recorder.
            return new StoreProblem(
                    Kind.TABLE,
                    batch,
                    "The file " + file.getFileName() + " in " + folder + " cannot be written: " + reason(e) + ".",
                    e);
        }
        return new StoreProblem(Kind.AWAY, batch, "The folder " + folder + " cannot be written: " + reason(e) + ".", e);
    }

    @Override
    public boolean canFind(RowBatch batch) {
        return true;
    }

    @Override
    public boolean tellsOfAll() {
        return false;
    }

    @Override
    public synchronized Set<RowId> landed(RowBatch batch) throws StoreProblem {
        inside(file(batch.table(), 1));
        int number = last(batch.table());
        if (number == 0 || batch.rows().isEmpty()) {
            return Set.of();
        }
        try {
            Path file = file(batch.table(), number);
            heldOpen(file);
            int count = format.landed(file, batch.layout().written(), batch.rows());
            rowCounts.remove(file);
            Set<RowId> there = new HashSet<>();
            batch.rows().subList(0, count).forEach(row -> there.add(row.id()));
            return there;
        } catch (IOException e) {
            throw problem(e);
        }
    }

    @Override
    public Optional<RowId> mark(String lane) {
        return Optional.empty();
    }

    @Override
    public TryOutcome tryOut(RowBatch one) {
        List<Column> columns = one.layout().written();
        Row row = one.rows().get(0);
        try {
            refuse(one, 0);
            settings.root().check(file(one.table(), 1));
            Path scratch = Files.createTempFile("dachshund-try", settings.extension());
            Files.delete(scratch);
            format.append(scratch, columns, List.of(row));
            List<String> cells = format.last(scratch, columns, 1).get(0).stream()
                    .map(cell -> cell == null ? "" : cell)
                    .toList();
            Files.delete(scratch);
            return new TryOutcome(
                    true,
                    "1 row was written to a file of its own, read back and removed.",
                    columns.stream().map(Column::name).toList(),
                    cells,
                    List.of("A row in a file cannot be rolled back, so "
                            + file(one.table(), 1).getFileName() + " itself was not touched."));
        } catch (IOException e) {
            return TryOutcome.failed(problem(e).getMessage());
        } catch (StoreProblem refused) {
            return TryOutcome.failed(refused.getMessage());
        } catch (RuntimeException library) {
            return TryOutcome.failed("The row could not be written: " + library.getMessage());
        }
    }

    /** Reading waits for nobody: a row that is being written meanwhile is seen whole or not at all. */
    @Override
    public TablePage lastRows(String table, Layout layout, int limit) throws StoreProblem {
        inside(file(table, 1));
        List<Column> columns = layout.written();
        int number = last(table);
        List<String> names = columns.stream().map(Column::name).toList();
        if (number == 0) {
            return new TablePage(names, List.of());
        }
        try {
            CellText texts = new CellText(settings);
            List<List<Object>> rows = new ArrayList<>();
            for (List<String> row : format.last(file(table, number), columns, limit)) {
                rows.add(0, cells(row, columns, texts));
            }
            return new TablePage(names, rows);
        } catch (IOException e) {
            throw problem(e);
        }
    }

    private static List<Object> cells(List<String> row, List<Column> columns, CellText texts) {
        Object[] cells = new Object[columns.size()];
        for (int i = 0; i < cells.length; i++) {
            cells[i] = texts.read(row.get(i), columns.get(i).type());
        }
        return Arrays.asList(cells);
    }

    /** However slowly they are taken, nobody waits for that. */
    @Override
    public void readAll(String table, Layout layout, TakeRow taker) throws StoreProblem {
        inside(file(table, 1));
        List<Column> columns = layout.written();
        CellText texts = new CellText(settings);
        try {
            for (int number = 1; number <= last(table); number++) {
                format.each(file(table, number), columns, row -> taker.row(cells(row, columns, texts)));
            }
        } catch (UncheckedIOException e) {
            throw problem(e.getCause());
        } catch (IOException e) {
            throw problem(e);
        }
    }

    /** Removes files of its own that were last written to before the days that are kept. */
    @Override
    public synchronized void tidy(Instant now, Set<String> places) {
        if (settings.keepDays() == 0) {
            return;
        }
        Instant oldest = now.minus(Duration.ofDays(settings.keepDays()));
        Set<Path> candidates = new LinkedHashSet<>();
        for (String place : places) {
            for (int number = 1; number <= Math.max(1, last(place)); number++) {
                candidates.add(file(place, number));
            }
        }
        for (Path file : candidates) {
            if (Files.exists(file) && modified(file).toInstant().isBefore(oldest)) {
                try {
                    settings.root().check(file);
                    heldOpen(file);
                    Files.delete(file);
                    rowCounts.remove(file);
                    LOG.info("{} was older than {} days and is removed.", file.getFileName(), settings.keepDays());
                } catch (IOException e) {
                    LOG.warn("{} could not be removed: {}", file.getFileName(), reason(e));
                }
            }
        }
    }

    @Override
    public void close() {
        // nothing is kept open
    }
}
