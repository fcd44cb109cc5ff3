package dachshund.web.people;

import java.text.Normalizer;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.Locale;
import java.util.Map;
import org.springframework.stereotype.Component;

/**
 * After five wrong passwords in a row a name is closed for a minute, however it is written. Remembers the last thousand names
 * tried. Time goes by the monotonic clock: setting the other one opens nothing.
 */
@Component
class SignInThrottle {

    private static final int TRIES = 5;
    static final Duration CLOSED = Duration.ofMinutes(1);
    private static final int NAMES = 1000;

    private final Map<String, Tries> tries = new LinkedHashMap<>() {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Tries> eldest) {
            return size() > NAMES;
        }
    };

    private record Tries(int wrong, long last) {

        private boolean old() {
            return System.nanoTime() - last > CLOSED.toNanos();
        }
    }

    /** The one form of a name that all ways of writing it have: compatible letters, none around it, small ones. */
    static String canonical(String name) {
        return Normalizer.normalize(name, Normalizer.Form.NFKC)
                .strip()
                .replaceAll("^[\\p{Z}\\p{C}]+|[\\p{Z}\\p{C}]+$", "")
                .toLowerCase(Locale.ROOT);
    }

    synchronized boolean closed(String name) {
        Tries known = tries.get(canonical(name));
        return known != null && known.wrong() >= TRIES && !known.old();
    }

    synchronized void failed(String name) {
        String key = canonical(name);
        Tries known = tries.remove(key);
        tries.put(key, new Tries(known == null || known.old() ? 1 : known.wrong() + 1, System.nanoTime()));
    }

    synchronized void succeeded(String name) {
        tries.remove(canonical(name));
    }
}
