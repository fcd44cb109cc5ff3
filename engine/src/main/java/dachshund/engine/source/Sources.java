package dachshund.engine.source;

import dachshund.core.definition.SourceDefinition;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.LinkKind;
import dachshund.core.source.PlantLink;
import dachshund.core.time.PlantClock;
import dachshund.engine.tag.TagTable;
import dachshund.engine.thread.Threads;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ScheduledExecutorService;
import java.util.stream.Collectors;

/** All sources at work. */
public final class Sources implements AutoCloseable {

    private final Map<String, LinkKind> kinds;
    private final SecretBox secrets;
    private final TagTable table;
    private final PlantClock clock;
    private final ScheduledExecutorService work = Threads.pool("links", 8);
    private final Map<String, SourceRun> runs = new ConcurrentHashMap<>();

    public Sources(List<LinkKind> kinds, SecretBox secrets, TagTable table, PlantClock clock) {
        this.kinds = kinds.stream().collect(Collectors.toMap(LinkKind::id, kind -> kind));
        this.secrets = secrets;
        this.table = table;
        this.clock = clock;
    }

    /** A link with the settings of the definition, not started. */
    public PlantLink open(SourceDefinition source) {
        LinkKind kind = kinds.get(source.link());
        if (kind == null) {
            throw new IllegalArgumentException("There is no protocol " + source.link() + " in this version.");
        }
        Map<String, String> clear = source.settings().entrySet().stream()
                .collect(Collectors.toMap(Map.Entry::getKey, entry -> secrets.open(entry.getValue())));
        return kind.open(clear, source.rate(), clock);
    }

    /** Makes the given sources, and only those, run. A source whose connection stays the same is not interrupted. */
    public synchronized void changeover(List<SourceDefinition> wanted) {
        Map<String, SourceDefinition> byId = wanted.stream().collect(Collectors.toMap(SourceDefinition::id, source -> source));
        List.copyOf(runs.keySet()).stream().filter(id -> !byId.containsKey(id)).forEach(id -> runs.remove(id).close());
        for (SourceDefinition source : wanted) {
            SourceRun run = runs.get(source.id());
            if (run != null && sameConnection(run.definition(), source)) {
                run.follow(source);
                continue;
            }
            if (run != null) {
                run.close();
            }
            runs.put(source.id(), new SourceRun(source, open(source), table, clock, work));
        }
    }

    private static boolean sameConnection(SourceDefinition a, SourceDefinition b) {
        return a.link().equals(b.link()) && a.settings().equals(b.settings()) && a.rate().equals(b.rate());
    }

    public List<SourceRun> all() {
        return List.copyOf(runs.values());
    }

    public Optional<SourceRun> find(String id) {
        return Optional.ofNullable(runs.get(id));
    }

    @Override
    public synchronized void close() {
        runs.values().forEach(SourceRun::close);
        runs.clear();
        work.shutdownNow();
    }
}
