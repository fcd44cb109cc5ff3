package dachshund.core.source;

import dachshund.core.time.PlantClock;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/** One protocol: describes its settings, from which the page is made, and opens links. A new protocol is one of these. */
public interface LinkKind {

    /** Short name kept in definitions, such as {@code opcua}. */
    String id();

    /** Name for people. */
    String title();

    List<SettingField> settings();

    /**
     * @param settings values by {@link SettingField#name}
     * @param rate     how often values are wanted
     * @param clock    stamps what is received
     */
    PlantLink open(Map<String, String> settings, Duration rate, PlantClock clock);
}
