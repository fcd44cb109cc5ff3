package dachshund.links.mqtt;

import dachshund.core.source.LinkHealth;
import dachshund.core.source.PlantLink.Found;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.atomic.LongAdder;

/** The topics that were heard since the link was opened, with their last messages. Bounded; what is over is counted. */
final class Topics {

    static final int MOST = 50_000;
    private static final int KEPT_BYTES = 4096;
    private static final int SHOWN = 60;

    private final Map<String, Heard> heard = new ConcurrentHashMap<>();
    private final LongAdder left = new LongAdder();

    /** A topic: its last message, cut to the first 4,096 bytes. */
    static final class Heard {
        private final LongAdder messages = new LongAdder();
        private volatile byte[] last = {};
        private volatile Instant at = Instant.EPOCH;
        private volatile boolean retained;

        long messages() {
            return messages.sum();
        }

        String text() {
            return new String(last, StandardCharsets.UTF_8);
        }

        Instant at() {
            return at;
        }

        boolean retained() {
            return retained;
        }
    }

    void note(String topic, ByteBuffer payload, boolean retained, Instant now) {
        Heard known = heard.get(topic);
        if (known == null) {
            if (heard.size() >= MOST) {
                left.increment();
                return;
            }
            known = heard.computeIfAbsent(topic, each -> new Heard());
        }
        ByteBuffer copy = payload.duplicate();
        byte[] bytes = new byte[Math.min(KEPT_BYTES, copy.remaining())];
        copy.get(bytes);
        known.last = bytes;
        known.at = now;
        known.retained = retained;
        known.messages.increment();
    }

    Map<String, Heard> all() {
        return heard;
    }

    /** The topics that were heard last, newest first, with the beginnings of their messages. */
    List<LinkHealth.Latest> newest(int most) {
        // Taken down before it is sorted: topics go on moving meanwhile, and an order must not change while it is made.
        return heard.entrySet().stream()
                .map(entry -> {
                    String text = entry.getValue().text();
                    return new LinkHealth.Latest(
                            entry.getKey(),
                            text.length() > SHOWN ? text.substring(0, SHOWN) + "…" : text,
                            entry.getValue().messages(),
                            entry.getValue().at());
                })
                .sorted(Comparator.comparing(LinkHealth.Latest::at).reversed().thenComparing(LinkHealth.Latest::where))
                .limit(most)
                .toList();
    }

    /** Messages of topics that were too many to be listed. */
    long left() {
        return left.sum();
    }

    /** The folders and tags one level under a folder; a topic that carries JSON has a tag for each part. */
    List<Found> under(String folder, String path) {
        List<Found> found = new ArrayList<>();
        TreeSet<String> folders = new TreeSet<>();
        new java.util.TreeMap<>(heard).forEach((topic, message) -> {
            if (!topic.startsWith(folder)) {
                return;
            }
            String rest = topic.substring(folder.length());
            int slash = rest.indexOf('/');
            if (slash >= 0 && folders.add(rest.substring(0, slash))) {
                found.add(new Found.Folder(
                        folder + rest.substring(0, slash + 1),
                        path,
                        rest.substring(0, slash).isEmpty() ? "(empty level)" : rest.substring(0, slash)));
            } else if (slash < 0) {
                Payload.parts(message.text())
                        .forEach(
                                (pointer, value) -> found.add(new Found.Tag(Payload.tag(topic, path, pointer, value))));
            }
        });
        return found;
    }

    /** Whether a filter of MQTT matches a topic (MQTT 5, 4.7). */
    static boolean matches(String filter, String topic) {
        String[] wanted = filter.split("/", -1);
        String[] levels = topic.split("/", -1);
        if (topic.startsWith("$") && (wanted[0].equals("#") || wanted[0].equals("+"))) {
            return false;
        }
        for (int i = 0; i < wanted.length; i++) {
            if (wanted[i].equals("#")) {
                return true;
            }
            if (i >= levels.length || !wanted[i].equals("+") && !wanted[i].equals(levels[i])) {
                return false;
            }
        }
        return wanted.length == levels.length;
    }
}
