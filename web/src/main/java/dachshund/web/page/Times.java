package dachshund.web.page;

import dachshund.core.time.PeriodText;
import dachshund.core.time.PlantClock;
import dachshund.office.own.DachshundSettings;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import org.springframework.stereotype.Component;

/** Times as pages show them: in plant time, with UTC for the hover. */
@Component("times")
public class Times {

    private static final DateTimeFormatter FULL = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss");
    private static final DateTimeFormatter CLOCK = DateTimeFormatter.ofPattern("HH:mm:ss");
    private static final DateTimeFormatter MINUTE = DateTimeFormatter.ofPattern("HH:mm");
    private static final DateTimeFormatter FINE = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss.SSS");

    private static final DateTimeFormatter TICK = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss.SSSSSSS");

    private final ZoneId zone;
    private final PlantClock clock;

    Times(DachshundSettings settings, PlantClock clock) {
        this.zone = settings.zone();
        this.clock = clock;
    }

    public Instant now() {
        return clock.now();
    }

    public String zone() {
        return zone.getId();
    }

    public String full(Instant at) {
        return FULL.format(at.atZone(zone));
    }

    /** To the millisecond. */
    public String fine(Instant at) {
        return FINE.format(at.atZone(zone));
    }

    /** To 100 ns, as OPC UA gives it. */
    public String tick(Instant at) {
        return TICK.format(at.atZone(zone));
    }

    public String clock(Instant at) {
        return CLOCK.format(at.atZone(zone));
    }

    public String minute(Instant at) {
        return MINUTE.format(at.atZone(zone));
    }

    public String utc(Instant at) {
        return FINE.format(at.atZone(ZoneOffset.UTC)) + " UTC";
    }

    /** To the second, in UTC. */
    public String utcFull(Instant at) {
        return FULL.format(at.atZone(ZoneOffset.UTC));
    }

    /** Time passed since the instant: 350 ms, 12 s, 4 min. */
    public String age(Instant at) {
        return PeriodText.roughly(Duration.between(at, clock.now()));
    }

    /** A length of time: 350 ms, 12 s, 4 min. */
    public String passed(Duration time) {
        return PeriodText.roughly(time);
    }

    public boolean known(Instant at) {
        return !at.equals(Instant.EPOCH);
    }

    /** How long something short took. */
    public String micros(long micros) {
        return micros < 1000
                ? micros + " µs"
                : String.format(Locale.UK, micros < 10_000 ? "%.1f ms" : "%,.0f ms", micros / 1000.0);
    }
}
