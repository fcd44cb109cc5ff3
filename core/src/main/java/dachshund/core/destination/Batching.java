package dachshund.core.destination;

import dachshund.core.source.SettingField;
import java.time.Duration;
import java.util.List;
import java.util.Map;

/**
 * When the rows of a lane are written: as soon as so many wait, or when the oldest has waited so long.
 *
 * @param rows most rows in one batch, 1 to 10,000
 * @param patience longest time that a row waits for others to make a full batch; zero writes what is there
 */
public record Batching(int rows, Duration patience) {

    /** Up to a thousand rows at once, at once. */
    public static final Batching AT_ONCE = new Batching(1000, Duration.ZERO);

    private static final String ROWS = "batchRows";
    private static final String SECONDS = "batchSeconds";

    /** As the settings of a destination say. */
    public static Batching of(Map<String, String> settings) {
        return new Batching(
                (int) number(settings, ROWS, AT_ONCE.rows()), Duration.ofSeconds(number(settings, SECONDS, 0)));
    }

    private static long number(Map<String, String> settings, String name, long unless) {
        String text = settings.getOrDefault(name, "").strip();
        return text.isEmpty() ? unless : Long.parseLong(text);
    }

    /** The fields of a form. */
    public static List<SettingField> fields() {
        return fields("1000", "0");
    }

    /** The fields of a form, with other values to begin with. */
    public static List<SettingField> fields(String rows, String seconds) {
        return List.of(
                SettingField.text(ROWS, "Write after so many rows", rows, rows)
                        .checked(SettingField.whole(1, 10_000, "From 1 to 10,000 rows."))
                        .seldom(),
                SettingField.text(SECONDS, "or after so many seconds", seconds, seconds)
                        .checked(SettingField.whole(0, 86_400, "From 0 (as soon as they are there) to 86,400 seconds."))
                        .helped("Rows wait safely on disk until then.")
                        .seldom());
    }
}
