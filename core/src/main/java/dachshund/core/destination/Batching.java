package dachshund.core.destination;

import dachshund.core.source.SettingField;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;

/**
 * When the rows of a lane are written: as soon as so many wait, or when the oldest has waited so long; and how much may
 * wait.
 *
 * @param rows most rows in one batch, 1 to {@link #MOST_ROWS}
 * @param patience longest time that a row waits for others to make a full batch; zero writes what is there
 * @param most most rows of one recorder that are held on disk; 0 for no such bound
 * @param longest oldest record time that is held; zero for no such bound
 */
public record Batching(int rows, Duration patience, long most, Duration longest) {

    /** Of one batch, whatever the settings say. */
    public static final int MOST_ROWS = 10_000;

    /** Bytes of one recorder's rows that may stand apart while it cannot go on. */
    private static final long MOST_APART = 4L << 30;

    public Batching(int rows, Duration patience) {
        this(rows, patience, 0, Duration.ZERO);
    }

    /** Up to a thousand rows at once, at once. */
    public static final Batching AT_ONCE = new Batching(1000, Duration.ZERO);

    private static final String ROWS = "batchRows";
    private static final String SECONDS = "batchSeconds";
    private static final String MOST = "holdRows";
    private static final String DAYS = "holdDays";

    /** As the settings of a destination say. */
    public static Batching of(Map<String, String> settings) {
        return new Batching(
                (int) number(settings, ROWS, AT_ONCE.rows()),
                Duration.ofSeconds(number(settings, SECONDS, 0)),
                number(settings, MOST, 0),
                Duration.ofDays(number(settings, DAYS, 0)));
    }

    /**
     * Why a recorder with so much on disk takes no more rows, in words; empty where it does.
     *
     * @param waiting its rows on disk
     * @param oldest  record time of the oldest
     * @param apart   bytes that stand apart, because it cannot go on
     */
    public String full(long waiting, Instant oldest, long apart, Instant now) {
        if (most > 0 && waiting >= most) {
            return waiting + " rows are held, the most that the destination's settings allow: new rows are not taken.";
        }
        if (!longest.isZero() && oldest.isBefore(now.minus(longest))) {
            return "The oldest held row is older than " + longest.toDays()
                    + " days, the most that the destination's settings allow: new rows are not taken.";
        }
        return apart > MOST_APART
                ? "The rows that wait for this table alone fill " + (apart >> 30) + " GB: new rows are not taken."
                : "";
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
                        .checked(SettingField.whole(1, MOST_ROWS, "From 1 to 10,000 rows."))
                        .seldom(),
                SettingField.text(SECONDS, "or after so many seconds", seconds, seconds)
                        .checked(SettingField.whole(0, 86_400, "From 0 (as soon as they are there) to 86,400 seconds."))
                        .helped("Rows wait safely on disk until then.")
                        .seldom(),
                SettingField.text(MOST, "Hold at most so many rows a recorder", "0", "0")
                        .checked(SettingField.whole(
                                0, 1_000_000_000, "From 0 (as many as the disk bears) to 1,000,000,000 rows."))
                        .helped("While the destination is away. Beyond that new rows are refused and counted.")
                        .seldom(),
                SettingField.text(DAYS, "Hold at most so many days", "0", "0")
                        .checked(SettingField.whole(0, 3650, "From 0 (no bound) to 3,650 days."))
                        .helped("When the oldest held row is older, new rows are refused and counted.")
                        .seldom());
    }
}
