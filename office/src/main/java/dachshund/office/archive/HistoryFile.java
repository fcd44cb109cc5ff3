package dachshund.office.archive;

import dachshund.core.archive.Arrivals;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.Marks;
import dachshund.core.archive.Series;
import dachshund.core.tag.DataKind;
import dachshund.core.tag.Quality;
import dachshund.core.tag.TagInfo;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.core.time.WrittenTimes;
import dachshund.core.work.Progress;
import dachshund.office.archive.HistoryImport.Unreadable;
import de.siegmar.fastcsv.reader.CommentStrategy;
import de.siegmar.fastcsv.reader.CsvParseException;
import de.siegmar.fastcsv.reader.CsvReader;
import de.siegmar.fastcsv.reader.CsvRecord;
import de.siegmar.fastcsv.reader.FieldMismatchStrategy;
import java.io.BufferedReader;
import java.math.BigInteger;
import java.nio.charset.MalformedInputException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/**
 * History in a CSV file (RFC 4180), read in one pass with little memory. Two forms are understood: a line a value with the
 * columns tag, time, value and, where wanted, quality; and a column a tag beside one called time. Commas, semicolons and tabs
 * separate; with semicolons numbers may have a decimal comma.
 */
final class HistoryFile {

    /** So many values are handed on at once. */
    private static final int AT_ONCE = 500_000;

    private static final int MOST_TOLD = 20;
    private static final int MOST_LETTERS = 1_000_000;
    private static final int LINES_PER_STEP = 5_000;

    private final Function<String, Optional<Known>> tags;
    private final ZoneId zone;
    private final Instant now;
    private final Taker taker;
    private final Map<TagRef, Part> parts = new LinkedHashMap<>();
    private final Map<String, Optional<Known>> byName = new HashMap<>();
    private final List<String> refusals = new ArrayList<>();
    private WrittenTimes times;
    private boolean decimalComma;
    private long lines;
    private long refused;
    private long held;

    /**
     * A tag that the file names.
     *
     * @param name as people call it
     * @param lasting for how long its values are kept
     */
    record Known(TagRef ref, String name, TagInfo info, KeptFor lasting) {}

    /** What is made of values, some of a tag at a time, in the order of their times; a tag may come several times. */
    interface Taker {
        void take(Known tag, Series values) throws Exception;
    }

    /**
     * What was read.
     *
     * @param lines    lines below the heading
     * @param refused  values that could not be read or may not be kept
     * @param refusals the first of them, in a sentence each
     * @param unknown  names of tags that are not there
     * @param times    how its times are written, in words
     */
    record Result(long lines, long refused, List<String> refusals, List<String> unknown, String times) {}

    private record Part(Known tag, Arrivals values) {}

    private HistoryFile(Function<String, Optional<Known>> tags, ZoneId zone, Instant now, Taker taker) {
        this.tags = tags;
        this.zone = zone;
        this.now = now;
        this.taker = taker;
    }

    /**
     * @param tags  the tag that a name in the file stands for
     * @param zone  of times that say none
     * @param now   what is later by more than a day is refused
     * @param taker gets the values
     * @throws Unreadable with a sentence and, where it is one, the line
     */
    static Result read(
            Path file, Function<String, Optional<Known>> tags, ZoneId zone, Instant now, Taker taker, Progress progress)
            throws Unreadable, Exception {
        HistoryFile reading = new HistoryFile(tags, zone, now, taker);
        try {
            return reading.read(file, progress);
        } catch (CsvParseException broken) {
            String why = broken.getCause() == null
                    ? broken.getMessage()
                    : broken.getMessage() + ": " + broken.getCause().getMessage();
            throw new Unreadable("This is no CSV file that can be read: " + why + ".", broken);
        } catch (MalformedInputException letters) {
            throw new Unreadable("The file is not in UTF-8; save it as CSV UTF-8.", letters);
        }
    }

    private Result read(Path file, Progress progress) throws Exception {
        String heading;
        try (BufferedReader first = Files.newBufferedReader(file, StandardCharsets.UTF_8)) {
            heading = first.readLine();
        }
        if (heading == null || heading.isBlank()) {
            throw new Unreadable("The file is empty.", null);
        }
        char separator = separator(heading);
        decimalComma = separator == ';';
        try (CsvReader<CsvRecord> csv = CsvReader.builder()
                .fieldSeparator(separator)
                .extraFieldStrategy(FieldMismatchStrategy.STRICT)
                .commentStrategy(CommentStrategy.NONE)
                .detectBomHeader(true)
                .ofCsvRecord(file, StandardCharsets.UTF_8)) {
            Iterator<CsvRecord> records = csv.iterator();
            List<String> columns =
                    records.next().getFields().stream().map(String::strip).toList();
            int time = index(columns, "time");
            int tag = index(columns, "tag");
            int value = index(columns, "value");
            if (time < 0) {
                throw new Unreadable(
                        "No column is called time. A file has the columns tag, time, value and perhaps quality, or time and a column a tag.",
                        null);
            }
            boolean aLineAValue = tag >= 0 && value >= 0;
            int quality = aLineAValue ? index(columns, "quality") : -1;
            while (records.hasNext()) {
                CsvRecord record = records.next();
                lines++;
                if (lines % LINES_PER_STEP == 0) {
                    progress.done(lines);
                }
                if (aLineAValue) {
                    line(record, record.getField(tag), time, value, quality);
                } else {
                    wide(record, columns, time);
                }
                if (held >= AT_ONCE) {
                    handOn();
                }
            }
        }
        handOn();
        List<String> unknown = byName.entrySet().stream()
                .filter(each -> each.getValue().isEmpty())
                .map(Map.Entry::getKey)
                .sorted()
                .toList();
        return new Result(lines, refused, refusals, unknown, times == null ? "" : times.words());
    }

    private static char separator(String heading) {
        char best = ',';
        long most = 0;
        for (char each : new char[] {',', ';', '\t'}) {
            long count = heading.chars().filter(letter -> letter == each).count();
            if (count > most) {
                most = count;
                best = each;
            }
        }
        return best;
    }

    private static int index(List<String> columns, String name) {
        for (int i = 0; i < columns.size(); i++) {
            if (columns.get(i).equalsIgnoreCase(name)) {
                return i;
            }
        }
        return -1;
    }

    private void line(CsvRecord record, String name, int time, int value, int quality) throws Unreadable {
        Optional<Known> tag = known(name.strip());
        if (tag.isEmpty()) {
            return;
        }
        put(
                record,
                tag.get(),
                record.getField(time),
                record.getField(value),
                quality < 0 ? "" : record.getField(quality));
    }

    private void wide(CsvRecord record, List<String> columns, int time) throws Unreadable {
        for (int i = 0; i < columns.size(); i++) {
            if (i == time || record.getField(i).isBlank()) {
                continue;
            }
            Optional<Known> tag = known(columns.get(i));
            if (tag.isPresent()) {
                String cell = record.getField(i);
                boolean bad = cell.equalsIgnoreCase("bad");
                put(record, tag.get(), record.getField(time), bad ? "" : cell, bad ? "bad" : "");
            }
        }
    }

    private Optional<Known> known(String name) {
        return byName.computeIfAbsent(name, tags);
    }

    private void put(CsvRecord record, Known tag, String time, String value, String quality) throws Unreadable {
        if (times == null) {
            try {
                times = WrittenTimes.like(time, zone);
            } catch (IllegalArgumentException none) {
                throw new Unreadable(none.getMessage(), none);
            }
        }
        try {
            Instant at = times.read(time);
            allowed(tag, at);
            Quality told = quality(quality);
            if (value.length() > MOST_LETTERS) {
                throw new IllegalArgumentException("a text of " + value.length() + " letters is too long.");
            }
            Object read =
                    value.isEmpty() && told.isBad() ? null : value(tag.info().kind(), value);
            parts.computeIfAbsent(tag.ref(), ref -> new Part(tag, new Arrivals()))
                    .values()
                    .add(OpcUaTime.toTicks(at), read, Marks.of(told, read != null));
            held++;
        } catch (IllegalArgumentException problem) {
            refused++;
            if (refusals.size() < MOST_TOLD) {
                refusals.add("Line " + record.getStartingLineNumber() + ": " + problem.getMessage());
            }
        }
    }

    private void allowed(Known tag, Instant at) {
        if (at.isAfter(now.plusSeconds(86_400))) {
            throw new IllegalArgumentException("the time " + at + " is in the future.");
        }
        if (at.isBefore(Instant.EPOCH)) {
            throw new IllegalArgumentException("the time " + at + " is before 1970.");
        }
        if (tag.lasting().days() > 0
                && at.isBefore(now.minusSeconds(86_400L * tag.lasting().days()))) {
            throw new IllegalArgumentException("a value from " + at + " of " + tag.name()
                    + " is older than its rule keeps values (" + tag.lasting().days() + " days).");
        }
    }

    private static Quality quality(String words) {
        String word = words.strip().toLowerCase(Locale.ROOT);
        if (word.startsWith("0x")) {
            try {
                long code = Long.parseLong(word.substring(2), 16);
                int severity = (int) (code >>> 30 & 3);
                return new Quality(
                        severity == 0
                                ? Quality.Grade.GOOD
                                : severity == 1 ? Quality.Grade.UNCERTAIN : Quality.Grade.BAD,
                        code & 0xFFFFFFFFL,
                        "");
            } catch (NumberFormatException none) {
                throw new IllegalArgumentException("\"" + words + "\" is no status code.", none);
            }
        }
        return switch (word) {
            case "", "good" -> Quality.GOOD;
            case "uncertain" -> new Quality(Quality.Grade.UNCERTAIN, 0, "");
            case "bad" -> Quality.bad(0, "");
            default ->
                throw new IllegalArgumentException("\"" + words
                        + "\" is no quality: write good, uncertain, bad, or a status code such as 0x808A0000.");
        };
    }

    private Object value(DataKind kind, String cell) {
        String text = cell.strip();
        try {
            return switch (kind) {
                case BOOLEAN -> truth(text);
                case NUMBER -> number(text);
                case INTEGER -> Long.valueOf(text);
                case UNSIGNED -> whole(new BigInteger(text));
                default -> text;
            };
        } catch (NumberFormatException strange) {
            throw new IllegalArgumentException("\"" + cell + "\" is no " + kind.words() + ".", strange);
        }
    }

    private Double number(String text) {
        double number = Double.parseDouble(decimalComma ? text.replace(',', '.') : text);
        if (!Double.isFinite(number)) {
            throw new NumberFormatException(text);
        }
        return number;
    }

    /** Beyond 64 bits with a sign it is kept as its digits. */
    private static Object whole(BigInteger number) {
        return number.bitLength() < Long.SIZE ? (Object) number.longValue() : number.toString();
    }

    private static Boolean truth(String text) {
        return switch (text.toLowerCase(Locale.ROOT)) {
            case "true", "yes", "1", "on" -> true;
            case "false", "no", "0", "off" -> false;
            default -> throw new NumberFormatException(text);
        };
    }

    private void handOn() throws Exception {
        for (Part part : parts.values()) {
            taker.take(part.tag(), part.values().series());
        }
        parts.clear();
        held = 0;
    }
}
