package dachshund.engine.notice;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import dachshund.core.notice.Calm;
import dachshund.core.notice.Matter;
import dachshund.core.notice.Message;
import dachshund.core.notice.NoticeRule;
import dachshund.core.time.PlantClock;
import dachshund.engine.journal.Journal;
import dachshund.engine.local.LocalStore;
import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Supplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Looks every few seconds at what needs somebody, and writes to whom the rules name. Rules and what was told are on the local
 * disk: they do not depend on our own database, whose absence may be the matter. What was told counts as told only when its
 * message is on disk.
 */
public final class Notices implements AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Notices.class);
    private static final ObjectMapper JSON = new ObjectMapper().registerModule(new JavaTimeModule());
    private static final String RULES = "notice rules";
    private static final String KNOWN = "notice known ";
    private static final long LOOK_NANOS = 5_000_000_000L;

    /** Rules at most. */
    public static final int MOST = 100;

    private final LocalStore local;
    private final Outbox outbox;
    private final PlantClock clock;
    private final ZoneId zone;
    private final String site;
    private final List<Supplier<List<Matter>>> watchers;
    private final Map<Integer, List<Matter>> lastSeen = new HashMap<>();
    private final Set<Integer> failing = new HashSet<>();
    private final Map<String, Calm> calms = new ConcurrentHashMap<>();
    /** What is to be kept of a rule once its message is on disk. */
    private final Map<String, Kept> toKeep = new HashMap<>();

    private volatile List<NoticeRule> rules;
    private volatile List<Matter> standing = List.of();
    private volatile String trouble = "";
    private Worker worker;

    private record Kept(long position, String known) {}

    /**
     * @param watchers each says what stands now; one that throws is told as it was before
     */
    public Notices(
            LocalStore local,
            Outbox outbox,
            PlantClock clock,
            ZoneId zone,
            String site,
            List<Supplier<List<Matter>>> watchers) {
        this.local = local;
        this.outbox = outbox;
        this.clock = clock;
        this.zone = zone;
        this.site = site;
        this.watchers = List.copyOf(watchers);
        this.rules = read(RULES, new TypeReference<List<NoticeRule>>() {});
    }

    /** Begins to look. */
    public void begin() {
        worker = Threads.start("notices-look", () -> {
            look();
            return LOOK_NANOS;
        });
    }

    private <T> List<T> read(String fact, TypeReference<List<T>> type) {
        try {
            String text = local.remembered(fact).orElse("[]");
            return List.copyOf(JSON.readValue(text, type));
        } catch (JsonProcessingException strange) {
            LOG.error("What is kept as \"{}\" cannot be read; it begins anew.", fact, strange);
            return List.of();
        }
    }

    private static String written(Object what) {
        try {
            return JSON.writeValueAsString(what);
        } catch (JsonProcessingException never) {
            throw new IllegalStateException(never);
        }
    }

    public List<NoticeRule> rules() {
        return rules;
    }

    /** Takes a rule in the place of the one with its id, or beside the others. */
    public synchronized void change(NoticeRule rule) {
        List<NoticeRule> next = new ArrayList<>(rules);
        next.removeIf(each -> each.id().equals(rule.id()));
        if (next.size() >= MOST) {
            throw new IllegalArgumentException("There are " + MOST + " rules already.");
        }
        next.add(rule);
        keep(next);
    }

    public synchronized void remove(String id) {
        List<NoticeRule> next = new ArrayList<>(rules);
        next.removeIf(each -> each.id().equals(id));
        keep(next);
        calms.remove(id);
        toKeep.remove(id);
        local.remember(KNOWN + id, "[]");
    }

    private void keep(List<NoticeRule> next) {
        local.remember(RULES, written(next));
        rules = List.copyOf(next);
    }

    /** Writes to everybody whom a rule names that this is a test. */
    public void test(NoticeRule rule) throws Journal.Full {
        outbox.post(rule, message(List.of()));
    }

    private Message message(List<Calm.Line> lines) {
        return new Message(UUID.randomUUID().toString(), clock.now(), site, zone.getId(), lines);
    }

    synchronized void look() {
        keepWhatIsOnDisk();
        List<Matter> now = new ArrayList<>();
        for (int i = 0; i < watchers.size(); i++) {
            try {
                lastSeen.put(i, watchers.get(i).get());
                failing.remove(i);
            } catch (RuntimeException defect) {
                LOG.error(
                        "One of those who say what needs somebody fails; what it said last is taken to stand.", defect);
            }
            now.addAll(lastSeen.getOrDefault(i, List.of()));
        }
        standing = List.copyOf(now);
        Instant at = clock.now();
        LocalTime ofDay = at.atZone(zone).toLocalTime();
        String said = "";
        for (NoticeRule rule : rules) {
            said = tell(rule, at, ofDay) + said;
        }
        trouble = said;
    }

    /** @return why the message could not be taken; empty where it was, or there was none */
    private String tell(NoticeRule rule, Instant at, LocalTime ofDay) {
        Calm before = calms.computeIfAbsent(
                rule.id(), id -> new Calm(read(KNOWN + id, new TypeReference<List<Calm.Known>>() {})));
        Calm after = new Calm(before.known());
        List<Calm.Line> lines =
                after.step(standing.stream().filter(rule::takes).toList(), at, matter -> rule.quiet(matter, ofDay));
        long position = 0;
        if (!lines.isEmpty()) {
            try {
                position = outbox.post(rule, message(lines));
            } catch (Journal.Full full) {
                return "Notices of \"" + rule.name() + "\" cannot be written: " + full.getMessage() + " ";
            }
        }
        if (!after.known().equals(before.known())) {
            Kept waits = toKeep.get(rule.id());
            toKeep.put(
                    rule.id(),
                    new Kept(Math.max(position, waits == null ? 0 : waits.position()), written(after.known())));
        }
        calms.put(rule.id(), after);
        return "";
    }

    private void keepWhatIsOnDisk() {
        toKeep.entrySet().removeIf(each -> {
            if (each.getValue().position() > outbox.durable()) {
                return false;
            }
            local.remember(KNOWN + each.getKey(), each.getValue().known());
            return true;
        });
    }

    /** What needs somebody now, whether or not a rule takes it. */
    public List<Matter> standing() {
        return standing;
    }

    /** Why messages cannot be written; empty where they can. */
    public String trouble() {
        return trouble;
    }

    @Override
    public synchronized void close() {
        if (worker != null) {
            worker.close();
        }
        outbox.close();
        keepWhatIsOnDisk();
    }
}
