package dachshund.core.when;

import com.cronutils.model.Cron;
import com.cronutils.model.CronType;
import com.cronutils.model.definition.CronDefinitionBuilder;
import com.cronutils.model.time.ExecutionTime;
import com.cronutils.parser.CronParser;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.ZonedDateTime;
import java.util.Optional;

/**
 * The instants of a cron line. A line whose hour field begins with {@code *} goes by elapsed time and so fires in every hour
 * of a long night; any other keeps to the clock on the wall: a time that does not exist comes as much later as the clock
 * jumps, of one that comes twice the first is taken.
 */
final class CronSchedule implements ClockTimes {

    private static final CronParser PARSER = new CronParser(CronDefinitionBuilder.instanceDefinitionFor(CronType.UNIX));
    private static final int TWICE = 200;

    private final ExecutionTime times;
    private final ZoneId zone;
    private final boolean everyHour;

    CronSchedule(String line, ZoneId zone) {
        this.times = ExecutionTime.forCron(read(line));
        this.zone = zone;
        this.everyHour = line.strip().split("\\s+")[1].startsWith("*");
    }

    private static Cron read(String line) {
        try {
            return PARSER.parse(line).validate();
        } catch (IllegalArgumentException problem) {
            throw new IllegalArgumentException(
                    "This is not a cron line of five fields (minute, hour, day of month, month, day of week), such as 0 6 * * 1-5: "
                            + problem.getMessage().replaceAll("[.!]+$", "") + ".",
                    problem);
        }
    }

    /** @throws IllegalArgumentException with a sentence, where the line cannot be read */
    static void check(String line) {
        if (ExecutionTime.forCron(read(line))
                .nextExecution(ZonedDateTime.of(2024, 1, 1, 0, 0, 0, 0, ZoneOffset.UTC))
                .isEmpty()) {
            throw new IllegalArgumentException("This cron line never comes: there is no such day.");
        }
    }

    @Override
    public Optional<Instant> next(Instant after) {
        if (everyHour) {
            return times.nextExecution(after.atZone(zone)).map(ZonedDateTime::toInstant);
        }
        // The library passes over a time within the gap of a changeover; on a clock without changeovers it does not.
        LocalDateTime wall = after.atZone(zone).toLocalDateTime().minusHours(3);
        for (int i = 0; i < TWICE; i++) {
            Optional<ZonedDateTime> next = times.nextExecution(wall.atZone(ZoneOffset.UTC));
            if (next.isEmpty()) {
                return Optional.empty();
            }
            wall = next.get().toLocalDateTime();
            Instant instant = wall.atZone(zone).toInstant();
            if (instant.isAfter(after)) {
                return Optional.of(instant);
            }
        }
        return Optional.empty();
    }
}
