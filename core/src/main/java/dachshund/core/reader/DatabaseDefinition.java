package dachshund.core.reader;

import dachshund.core.definition.Definition;
import dachshund.core.destination.Batching;
import dachshund.core.destination.StoreKind;
import dachshund.core.source.SettingField;
import java.time.DateTimeException;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * A read-only database: one whose tables and views are read and that never gets a row, nor a delivery mark.
 *
 * @param store    id of its {@link StoreKind}
 * @param settings by name; secrets encrypted
 */
public record DatabaseDefinition(String id, String name, String description, String store, Map<String, String> settings)
        implements Definition {

    private static final String ZONE = "zone";

    public DatabaseDefinition {
        settings = Map.copyOf(settings);
    }

    @Override
    public DatabaseDefinition withSettings(Map<String, String> other) {
        return new DatabaseDefinition(id, name, description, store, other);
    }

    /** The zone of times in it that say none; UTC where it is none that is known here. */
    public ZoneId zone() {
        try {
            return ZoneId.of(settings.getOrDefault(ZONE, "UTC").strip());
        } catch (DateTimeException unknown) {
            return ZoneOffset.UTC;
        }
    }

    /** The settings of one: how it is reached, and what its times mean. */
    public static List<SettingField> fields(StoreKind kind) {
        Set<String> ofWriting =
                Batching.fields().stream().map(SettingField::name).collect(Collectors.toSet());
        List<SettingField> fields = new ArrayList<>(kind.settings().stream()
                .filter(field -> !ofWriting.contains(field.name()))
                .map(field -> field.name().equals("file") ? field.helped("Under the folder for files.") : field)
                .toList());
        fields.add(SettingField.text(ZONE, "Times that say no zone are of", "Europe/Berlin", "UTC")
                .checked(DatabaseDefinition::zoneProblem)
                .helped("A name of the tz database. It is the clock that whoever writes there looks at."));
        return List.copyOf(fields);
    }

    private static String zoneProblem(String text) {
        try {
            ZoneId.of(text.strip());
            return "";
        } catch (DateTimeException unknown) {
            return "There is no zone of that name; write UTC, Europe/Berlin or another name of the tz database.";
        }
    }
}
