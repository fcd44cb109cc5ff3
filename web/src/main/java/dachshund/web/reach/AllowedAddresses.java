package dachshund.web.reach;

import dachshund.engine.Engine;
import dachshund.links.network.AllowedPlaces;
import dachshund.web.audit.Audit;
import org.springframework.stereotype.Component;

/** The administrator's list of networks and ports that connections may go to. Kept with the local store: recording begins with it. */
@Component
public class AllowedAddresses {

    /** Its name in the local store. */
    public static final String FACT = "allowed addresses";

    private final Engine engine;
    private final AllowedPlaces places;
    private final Audit audit;

    AllowedAddresses(Engine engine, AllowedPlaces places, Audit audit) {
        this.engine = engine;
        this.places = places;
        this.audit = audit;
    }

    /** As it was typed; empty where everything may be reached. */
    String list() {
        return engine.local().remembered(FACT).orElse("");
    }

    /** @throws IllegalArgumentException with a sentence, where a line cannot be read; nothing is changed then */
    void change(String list, String by) {
        places.allow(list);
        engine.local().remember(FACT, list.strip());
        audit.note(
                by,
                "changed the allowed addresses",
                list.isBlank() ? "everywhere" : list.strip().replaceAll("\\s*\\R\\s*", ", "));
    }
}
