package dachshund.web.work;

import dachshund.office.definition.Definitions;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;

/** The last results of long work, by keys that are in the addresses of their pages; they do not outlive a restart. */
public final class Remembered<T> {

    private static final int MOST = 20;

    private final Map<String, T> all = Collections.synchronizedMap(new LinkedHashMap<>() {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, T> eldest) {
            return size() > MOST;
        }
    });

    /** @return its key */
    public String put(T result) {
        String key = Definitions.newId();
        all.put(key, result);
        return key;
    }

    public Optional<T> find(String key) {
        return Optional.ofNullable(all.get(key));
    }

    public void forget(String key) {
        all.remove(key);
    }
}
