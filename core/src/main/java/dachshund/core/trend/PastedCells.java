package dachshund.core.trend;

import dachshund.core.aggregate.Samples;
import dachshund.core.time.OpcUaTime;
import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Times and values that somebody took out of a spreadsheet or wrote by hand: a line each, a time and a number. How they are
 * separated and written is told by all lines together, and said, so that it can be corrected (short forms of dates and numbers of
 * Unicode CLDR for en-GB, en-US, de, fr, sv; from memory).
 *
 * @param told    how they were read, in words
 * @param left    lines that could not be read, a heading not among them
 * @param example the first of them; empty where there is none
 */
public record PastedCells(Samples points, String told, int left, String example) {

    /** Whoever has more brings them in as a file. */
    public static final int MOST_LINES = 100_000;

    private static final Pattern SECONDS = Pattern.compile("(\\d{9,10})(\\.\\d+)?");
    private static final Pattern MILLIS = Pattern.compile("\\d{12,13}");
    private static final Pattern DATE = Pattern.compile(
            "(\\d{1,4})[./-](\\d{1,2})[./-](\\d{1,4})"
                    + "(?:(?:T|,? +)(\\d{1,2})[:.](\\d{2})(?:[:.](\\d{2})(?:[.,](\\d{1,9}))?)?\\s*([AaPp]\\.?[Mm]\\.?)?\\s*(Z|[+-]\\d{2}:?\\d{2})?)?");
    private static final Pattern GROUPED_BY_POINT = Pattern.compile("[+-]?\\d{1,3}(\\.\\d{3})+(,\\d+)?");
    private static final Pattern GROUPED_BY_COMMA = Pattern.compile("[+-]?\\d{1,3}(,\\d{3})+(\\.\\d+)?");

    /** Which of day, month and year stands where. */
    public enum Order {
        YEAR_FIRST("year, month, day"),
        DAY_FIRST("day, month, year"),
        MONTH_FIRST("month, day, year");

        private final String words;

        Order(String words) {
            this.words = words;
        }

        public String words() {
            return words;
        }
    }

    /** A time and a value as they are written. */
    private record Line(String time, String value, String whole) {}

    /** One of several ways in which all of it may be written. */
    private record Reading(PastedCells cells, int read) {}

    /**
     * @param zone  of times that say none
     * @param order of dates; empty where the lines shall tell: where both are possible, the day comes first
     * @throws IllegalArgumentException with a sentence, where nothing of it can be read
     */
    public static PastedCells of(String text, ZoneId zone, Optional<Order> order) {
        List<String> lines = text.lines().filter(line -> !line.isBlank()).toList();
        if (lines.isEmpty()) {
            throw new IllegalArgumentException("Paste lines with a time and a number each.");
        }
        if (lines.size() > MOST_LINES) {
            throw new IllegalArgumentException("These are " + lines.size() + " lines, and a paste has " + MOST_LINES
                    + " at most. Bring longer ones into the archive as a CSV file.");
        }
        List<Reading> readings = new ArrayList<>();
        for (char separator : new char[] {'\t', ';', ',', ' '}) {
            List<Line> split =
                    lines.stream().map(line -> split(line, separator)).toList();
            if (split.stream().noneMatch(line -> !line.value().isEmpty())) {
                continue;
            }
            for (Order each : order.isPresent() ? new Order[] {order.get()} : Order.values()) {
                for (boolean comma : separator == ',' ? new boolean[] {false} : new boolean[] {false, true}) {
                    readings.add(read(split, each, comma, zone, separator));
                }
            }
        }
        Reading best = readings.stream()
                .max(Comparator.comparingInt(Reading::read))
                .filter(reading -> reading.read() > 0)
                .orElseThrow(() -> new IllegalArgumentException("No line has a time and a number. The first is \""
                        + shortened(lines.get(0)) + "\"; write it as 2026-11-28 06:00:00; 12.5."));
        return best.cells();
    }

    private static String shortened(String line) {
        return line.length() <= 60 ? line : line.substring(0, 60) + "…";
    }

    /** The last cell that is not empty is the value; what stands before it is the time. */
    private static Line split(String line, char separator) {
        String whole = line.strip();
        int at = whole.lastIndexOf(separator);
        if (at < 0) {
            return new Line(whole, "", whole);
        }
        return new Line(unquoted(whole.substring(0, at)), unquoted(whole.substring(at + 1)), whole);
    }

    private static String unquoted(String cell) {
        String text = cell.strip();
        return text.length() > 1 && text.startsWith("\"") && text.endsWith("\"")
                ? text.substring(1, text.length() - 1).strip()
                : text;
    }

    private static Reading read(List<Line> lines, Order order, boolean comma, ZoneId zone, char separator) {
        record Point(Instant at, double value) {}
        List<Point> points = new ArrayList<>();
        int left = 0;
        String example = "";
        for (int i = 0; i < lines.size(); i++) {
            Line line = lines.get(i);
            Optional<Instant> at = time(line.time(), order, zone);
            Optional<Double> value = number(line.value(), comma);
            if (at.isPresent() && value.isPresent()) {
                points.add(new Point(at.get(), value.get()));
            } else if (i > 0) {
                left++;
                example = example.isEmpty() ? shortened(line.whole()) : example;
            }
        }
        int read = points.size();
        points.sort(Comparator.comparing(Point::at));
        Samples samples = new Samples(points.size());
        points.forEach(point -> samples.add(OpcUaTime.toTicks(point.at()), point.value(), Samples.GOOD));
        String told = "separated by "
                + switch (separator) {
                    case '\t' -> "tabs";
                    case ';' -> "semicolons";
                    case ',' -> "commas";
                    default -> "blanks";
                }
                + ", dates as " + order.words() + ", numbers with a decimal " + (comma ? "comma" : "point");
        return new Reading(new PastedCells(samples, told, left, example), read);
    }

    private static Optional<Double> number(String text, boolean comma) {
        String plain = text.replace("\u00a0", "").replace("\u202f", "").replace(" ", "");
        if (comma) {
            plain = GROUPED_BY_POINT.matcher(plain).matches() ? plain.replace(".", "") : plain;
            if (plain.indexOf('.') >= 0) {
                return Optional.empty();
            }
            plain = plain.replace(',', '.');
        } else if (GROUPED_BY_COMMA.matcher(plain).matches()) {
            plain = plain.replace(",", "");
        }
        try {
            double value = new BigDecimal(plain).doubleValue();
            return Double.isFinite(value) ? Optional.of(value) : Optional.empty();
        } catch (NumberFormatException none) {
            return Optional.empty();
        }
    }

    private static Optional<Instant> time(String text, Order order, ZoneId zone) {
        Matcher seconds = SECONDS.matcher(text);
        if (seconds.matches()) {
            long millis = new BigDecimal(text).movePointRight(3).longValue();
            return Optional.of(Instant.ofEpochMilli(millis));
        }
        if (MILLIS.matcher(text).matches()) {
            return Optional.of(Instant.ofEpochMilli(Long.parseLong(text)));
        }
        Matcher date = DATE.matcher(text);
        if (!date.matches()) {
            return Optional.empty();
        }
        int first = Integer.parseInt(date.group(1));
        int second = Integer.parseInt(date.group(2));
        int third = Integer.parseInt(date.group(3));
        int digits = (order == Order.YEAR_FIRST ? date.group(1) : date.group(3)).length();
        int others = (order == Order.YEAR_FIRST ? date.group(3) : date.group(1)).length();
        if (others > 2 || digits != 4 && (digits != 2 || order == Order.YEAR_FIRST)) {
            return Optional.empty();
        }
        try {
            LocalDateTime local = LocalDateTime.of(
                    year(order == Order.YEAR_FIRST ? first : third),
                    order == Order.MONTH_FIRST ? first : second,
                    order == Order.YEAR_FIRST ? third : order == Order.DAY_FIRST ? first : second,
                    hour(date.group(4), date.group(8)),
                    part(date.group(5)),
                    part(date.group(6)),
                    date.group(7) == null ? 0 : Integer.parseInt((date.group(7) + "00000000").substring(0, 9)));
            return Optional.of(
                    date.group(9) == null
                            ? local.atZone(zone).toInstant()
                            : local.toInstant(ZoneOffset.of(date.group(9))));
        } catch (DateTimeException no) {
            return Optional.empty();
        }
    }

    private static int year(int written) {
        return written < 100 ? 2000 + written : written;
    }

    private static int part(String digits) {
        return digits == null ? 0 : Integer.parseInt(digits);
    }

    private static int hour(String digits, String half) {
        int hour = part(digits);
        if (half == null) {
            return hour;
        }
        if (hour < 1 || hour > 12) {
            throw new DateTimeException("no hour of half a day");
        }
        return hour % 12 + (half.toLowerCase(Locale.ROOT).startsWith("p") ? 12 : 0);
    }
}
