package dachshund.office.reach;

import dachshund.core.definition.Definition;
import dachshund.engine.Engine;
import dachshund.engine.thread.Threads;
import dachshund.links.network.AllowedPlaces;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import java.net.URI;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.springframework.stereotype.Component;

/** The administrator's list of networks and ports that connections may go to. Kept with the local store: recording begins with it. */
@Component
public class AllowedAddresses {

    /** Its name in the local store. */
    public static final String FACT = "allowed addresses";

    private static final Duration LONGEST_LOOK = Duration.ofSeconds(3);

    private final Engine engine;
    private final Definitions definitions;
    private final AllowedPlaces places;
    private final Audit audit;

    AllowedAddresses(Engine engine, Definitions definitions, AllowedPlaces places, Audit audit) {
        this.engine = engine;
        this.definitions = definitions;
        this.places = places;
        this.audit = audit;
    }

    /** As it was typed; empty where everything may be reached. */
    public String list() {
        return engine.local().remembered(FACT).orElse("");
    }

    /**
     * What a list would cut off of the sources and destinations that there are: a line each; a sentence where names of hosts
     * are not known in time.
     *
     * @throws IllegalArgumentException with a sentence, where a line of it cannot be read
     */
    public List<String> cutsOff(String list) {
        AllowedPlaces.refuses(list, "", 1);
        CompletableFuture<List<String>> looking = new CompletableFuture<>();
        Threads.once(
                "allowed-addresses",
                () -> looking.complete(definitions.drafted().stream()
                        .filter(each -> place(each)
                                .filter(to -> AllowedPlaces.refuses(list, to.getHost(), to.getPort()))
                                .isPresent())
                        .map(each -> each.kind().words() + " " + each.name() + ", "
                                + place(each).orElseThrow().getAuthority())
                        .toList()));
        try {
            return looking.get(LONGEST_LOOK.toMillis(), TimeUnit.MILLISECONDS);
        } catch (TimeoutException | ExecutionException late) {
            return List.of("It could not be found out in " + LONGEST_LOOK.toSeconds()
                    + " s: the names of the hosts are not answered for.");
        } catch (InterruptedException ending) {
            Thread.currentThread().interrupt();
            return List.of();
        }
    }

    /** Host and port that a thing connects to; empty where it connects nowhere. */
    private static Optional<URI> place(Definition definition) {
        Map<String, String> settings = definition.settings();
        String host = settings.getOrDefault("host", "").strip();
        String address = host.isEmpty()
                ? settings.getOrDefault("address", "")
                : "to://" + (host.contains(":") && !host.startsWith("[") ? "[" + host + "]" : host) + ":"
                        + settings.getOrDefault("port", "");
        try {
            URI to = URI.create(address.strip());
            return to.getHost() == null || to.getPort() < 1 ? Optional.empty() : Optional.of(to);
        } catch (IllegalArgumentException unreadable) {
            return Optional.empty();
        }
    }

    /** @throws IllegalArgumentException with a sentence, where a line cannot be read; nothing is changed then */
    public void change(String list, String by) {
        places.allow(list);
        engine.local().remember(FACT, list.strip());
        audit.note(
                by,
                "changed the allowed addresses",
                list.isBlank() ? "everywhere" : list.strip().replaceAll("\\s*\\R\\s*", ", "));
    }
}
