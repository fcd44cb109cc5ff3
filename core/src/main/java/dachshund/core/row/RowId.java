package dachshund.core.row;

/**
 * The identity of one row, unique over installations, restarts and rebuilds: what makes exactly once possible. Written
 * as 40 characters of fixed width, so that rows of one recorder sort in the order they were made:
 * {@code iiiiii-rrrrrrrr-eeeeeeee-ssssssssss-llll}, all hexadecimal.
 *
 * @param installation six hexadecimal digits, drawn once per installation
 * @param recorder     the recorder's id, eight hexadecimal digits
 * @param epoch        minted at each start of the application, always larger than the one before; below 2^32
 * @param sequence     counts the rows of the recorder in this epoch from 1; below 2^40
 * @param line         counts the lines of one sequence from 0, for layouts that write several; below 65,536
 */
public record RowId(String installation, String recorder, long epoch, long sequence, int line)
        implements Comparable<RowId> {

    private static final char[] HEX = "0123456789abcdef".toCharArray();

    public RowId {
        if (!hexadecimal(installation, 6)
                || !hexadecimal(recorder, 8)
                || epoch >>> 32 != 0
                || sequence >>> 40 != 0
                || line >>> 16 != 0) {
            throw new IllegalArgumentException(
                    "Out of range: " + installation + " " + recorder + " " + epoch + " " + sequence + " " + line);
        }
    }

    /** Every row made or read passes here, so this is a loop and not a pattern. */
    private static boolean hexadecimal(String text, int digits) {
        if (text.length() != digits) {
            return false;
        }
        for (int i = 0; i < digits; i++) {
            char c = text.charAt(i);
            if ((c < '0' || c > '9') && (c < 'a' || c > 'f')) {
                return false;
            }
        }
        return true;
    }

    /** Reads the 40 characters. */
    public static RowId read(String text) {
        String[] parts = text.split("-");
        if (parts.length != 5 || text.length() != 40) {
            throw new IllegalArgumentException("Not a row id: " + text);
        }
        return new RowId(
                parts[0],
                parts[1],
                Long.parseLong(parts[2], 16),
                Long.parseLong(parts[3], 16),
                Integer.parseInt(parts[4], 16));
    }

    public RowId withSequence(long other) {
        return new RowId(installation, recorder, epoch, other, line);
    }

    public RowId withLine(int other) {
        return new RowId(installation, recorder, epoch, sequence, other);
    }

    /** Order in which rows of one recorder were made. */
    @Override
    public int compareTo(RowId other) {
        return toString().compareTo(other.toString());
    }

    @Override
    public String toString() {
        StringBuilder text =
                new StringBuilder(40).append(installation).append('-').append(recorder);
        hex(text, epoch, 8);
        hex(text, sequence, 10);
        hex(text, line, 4);
        return text.toString();
    }

    private static void hex(StringBuilder text, long value, int digits) {
        text.append('-');
        for (int shift = (digits - 1) * 4; shift >= 0; shift -= 4) {
            text.append(HEX[(int) (value >>> shift) & 15]);
        }
    }
}
