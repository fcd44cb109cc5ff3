package dachshund.web.destination;

import dachshund.core.definition.DestinationDefinition;
import java.util.Map;
import org.springframework.stereotype.Component;

/** Where a destination is, in a few words. */
@Component("places")
public class Places {

    /** A database on its host, a file, or a folder. */
    public String of(DestinationDefinition destination) {
        Map<String, String> settings = destination.settings();
        if (settings.containsKey("host")) {
            return settings.getOrDefault("database", "") + " on " + settings.get("host") + ":"
                    + settings.getOrDefault("port", "");
        }
        return settings.containsKey("folder")
                ? settings.getOrDefault("format", "csv") + " files in " + settings.get("folder")
                : settings.getOrDefault("file", settings.getOrDefault("database", ""));
    }
}
