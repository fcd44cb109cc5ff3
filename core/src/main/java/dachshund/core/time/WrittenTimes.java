package dachshund.core.time;

import java.math.BigDecimal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.time.format.DateTimeFormatterBuilder;
import java.time.temporal.ChronoField;
import java.util.List;
import java.util.regex.Pattern;

/** How a file or column writes its times: one way for all of them, told by the first. Fractions go to 100 ns and finer. */
public final class WrittenTimes {

    private static final Pattern SECONDS = Pattern.compile("\\d{9,10}(\\.\\d{1,7})?");
    private static final Pattern MILLIS = Pattern.compile("\\d{12,13}");
    private static final Pattern LOCAL =
            Pattern.compile("\\d{4}-\\d{2}-\\d{2}[T ]\\d{2}:\\d{2}(:\\d{2}([.,]\\d{1,9})?)?");
    private static final Pattern OFFSET =
            Pattern.compile("\\d{4}-\\d{2}-\\d{2}[T ]\\d{2}:\\d{2}(:\\d{2}([.,]\\d{1,9})?)?(Z|[+-]\\d{2}:?\\d{2})");
    private static final DateTimeFormatter DATE_TIME = new DateTimeFormatterBuilder()
            .appendPattern("uuuu-MM-dd'T'HH:mm[:ss]")
            .appendFraction(ChronoField.NANO_OF_SECOND, 0, 9, true)
            .toFormatter(java.util.Locale.ROOT)
            .withResolverStyle(java.time.format.ResolverStyle.STRICT);
    private static final DateTimeFormatter WITH_OFFSET = new DateTimeFormatterBuilder()
            .append(DATE_TIME)
            .appendPattern("[XXX][XX]")
            .toFormatter(java.util.Locale.ROOT);

    private final Way way;
    private final ZoneId zone;

    private enum Way {
        OFFSET("with their offset from UTC"),
        LOCAL("in plant time"),
        SECONDS("as seconds since 1970, UTC"),
        MILLIS("as milliseconds since 1970, UTC");

        private final String words;

        Way(String words) {
            this.words = words;
        }
    }

    private WrittenTimes(Way way, ZoneId zone) {
        this.way = way;
        this.zone = zone;
    }

    /** In words: how they are written. */
    public String words() {
        return way.words;
    }

    /** @throws IllegalArgumentException with a sentence, where it is no way that is understood */
    public static WrittenTimes like(String time, ZoneId zone) {
        Way way = way(time.strip());
        if (way == null) {
            throw new IllegalArgumentException(
                    "\"" + time
                            + "\" is no time that is understood. Write 2026-11-27 06:00:00 (plant time), 2026-11-27T06:00:00Z, or seconds or milliseconds since 1970.");
        }
        return new WrittenTimes(way, zone);
    }

    private static Way way(String time) {
        if (OFFSET.matcher(time).matches()) {
            return Way.OFFSET;
        }
        if (LOCAL.matcher(time).matches()) {
            return Way.LOCAL;
        }
        return SECONDS.matcher(time).matches()
                ? Way.SECONDS
                : MILLIS.matcher(time).matches() ? Way.MILLIS : null;
    }

    /** @throws IllegalArgumentException with a sentence, where it is written in another way or names no instant */
    public Instant read(String text) {
        String time = text.strip();
        Way is = way(time);
        if (is != way) {
            throw new IllegalArgumentException("\"" + text + "\" is "
                    + (is == null ? "no time that is understood" : "written " + is.words)
                    + ", and the first time is written " + way.words + ".");
        }
        try {
            return switch (way) {
                case OFFSET -> OffsetDateTime.parse(plain(time), WITH_OFFSET).toInstant();
                case LOCAL -> local(LocalDateTime.parse(plain(time), DATE_TIME), text);
                case MILLIS -> Instant.ofEpochMilli(Long.parseLong(time));
                case SECONDS -> {
                    BigDecimal seconds = new BigDecimal(time);
                    yield Instant.ofEpochSecond(
                            seconds.longValue(),
                            seconds.remainder(BigDecimal.ONE).movePointRight(9).longValue());
                }
            };
        } catch (DateTimeException none) {
            throw new IllegalArgumentException("\"" + text + "\" is no time.", none);
        }
    }

    private static String plain(String time) {
        return time.replace(' ', 'T').replace(',', '.');
    }

    /** Where the clock was set back a time is there twice; nobody can know which one is meant. */
    private Instant local(LocalDateTime time, String text) {
        List<ZoneOffset> offsets = zone.getRules().getValidOffsets(time);
        if (offsets.size() != 1) {
            throw new IllegalArgumentException(
                    "\"" + text + "\" " + (offsets.isEmpty() ? "did not exist" : "was there twice")
                            + " in plant time, since the clock was changed then. Write times with their offset from UTC.");
        }
        return time.toInstant(offsets.get(0));
    }
}
