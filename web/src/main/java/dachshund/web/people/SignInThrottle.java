package dachshund.web.people;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import org.springframework.stereotype.Component;

/** After five wrong passwords in a row a name is closed for a minute. Remembers the last thousand names tried. */
@Component
class SignInThrottle {

    private static final int TRIES = 5;
    private static final Duration CLOSED = Duration.ofMinutes(1);
    private static final int NAMES = 1000;

    private final PlantClock clock;
    private final Map<String, Tries> tries = new LinkedHashMap<>() {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Tries> eldest) {
            return size() > NAMES;
        }
    };

    private record Tries(int wrong, Instant last) {}

    SignInThrottle(PlantClock clock) {
        this.clock = clock;
    }

    synchronized boolean closed(String name) {
        Tries known = tries.get(name.toLowerCase(Locale.ROOT));
        return known != null
                && known.wrong() >= TRIES
                && clock.now().isBefore(known.last().plus(CLOSED));
    }

    synchronized void failed(String name) {
        String key = name.toLowerCase(Locale.ROOT);
        Tries known = tries.getOrDefault(key, new Tries(0, Instant.EPOCH));
        boolean old = clock.now().isAfter(known.last().plus(CLOSED));
        tries.remove(key);
        tries.put(key, new Tries(old ? 1 : known.wrong() + 1, clock.now()));
    }

    synchronized void succeeded(String name) {
        tries.remove(name.toLowerCase(Locale.ROOT));
    }
}
