package dachshund.core.row;

import java.nio.charset.StandardCharsets;

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

    private static final byte[] HEX = "0123456789abcdef".getBytes(StandardCharsets.ISO_8859_1);

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
        byte[] text = new byte[40];
        characters(text, 0, installation);
        text[6] = '-';
        characters(text, 7, recorder);
        hex(text, 15, epoch, 8);
        hex(text, 24, sequence, 10);
        hex(text, 35, line, 4);
        return new String(text, StandardCharsets.ISO_8859_1);
    }

    private static void characters(byte[] text, int at, String part) {
        for (int i = 0; i < part.length(); i++) {
            text[at + i] = (byte) part.charAt(i);
        }
    }

    /** Every row made passes here, so this is a loop and no format. */
    private static void hex(byte[] text, int at, long value, int digits) {
        text[at] = '-';
        for (int i = 0; i < digits; i++) {
            text[at + 1 + i] = HEX[(int) (value >>> (digits - 1 - i) * 4) & 15];
        }
    }
}
