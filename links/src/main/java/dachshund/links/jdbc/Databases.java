package dachshund.links.jdbc;

import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.function.Function;

/** What is open of the other databases of a server: as many as may be, the longest unused closed first. */
final class Databases<T extends AutoCloseable> implements AutoCloseable {

    private static final int MOST = 100;

    private final Function<String, T> open;
    private final Map<String, T> known = new LinkedHashMap<>(16, 0.75f, true);

    Databases(Function<String, T> open) {
        this.open = open;
    }

    synchronized T of(String database) {
        T found = known.computeIfAbsent(database, open);
        if (known.size() > MOST) {
            Iterator<T> unused = known.values().iterator();
            closed(unused.next());
            unused.remove();
        }
        return found;
    }

    private static void closed(AutoCloseable one) {
        try {
            one.close();
        } catch (Exception cannot) {
            throw new IllegalStateException(cannot);
        }
    }

    @Override
    public synchronized void close() {
        known.values().forEach(Databases::closed);
    }
}
