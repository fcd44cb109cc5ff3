package dachshund.links.heavy;

import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.nio.charset.StandardCharsets;

/** What goes between the application and its second process, over standard input and output: a kind, a length, and that many bytes. */
public final class Frames {

    /** What a frame is. */
    public enum Kind {
        /** Begins work: a {@link Job} as JSON. */
        BEGIN,
        /** Rows for it, as {@link Cells} writes them. */
        ROWS,
        /** No more rows come. */
        END,
        /** Nobody wants it any more. */
        GIVE_UP,
        /** It is done: how many rows, as text. */
        DONE,
        /** It could not be done: a sentence. The process goes on. */
        FAILED,
        /** Begins work: a {@link JoinJob} as JSON. Its tables follow, each with its rows; then its values. */
        JOIN,
        /** A {@link JoinJob.Table} as JSON, whose rows follow. */
        TABLE,
        /** How many values there are, and each of them, as {@link Cells} writes them: now it is asked. */
        VALUES,
        /** The columns of the rows that follow, as JSON. */
        COLUMNS
    }

    /** @param bytes without the kind and the length */
    public record Frame(Kind kind, byte[] bytes) {
        public String text() {
            return new String(bytes, StandardCharsets.UTF_8);
        }
    }

    private static final int MOST = 64 * 1024 * 1024;

    private Frames() {}

    public static void write(DataOutputStream to, Kind kind, byte[] bytes, int count) throws IOException {
        to.writeByte(kind.ordinal());
        to.writeInt(count);
        to.write(bytes, 0, count);
    }

    public static void write(DataOutputStream to, Kind kind, String text) throws IOException {
        byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
        write(to, kind, bytes, bytes.length);
        to.flush();
    }

    /**
     * @throws EOFException where the other side has ended
     * @throws IOException  where it says what nobody understands
     */
    public static Frame read(DataInputStream from) throws IOException {
        int kind = from.readUnsignedByte();
        int count = from.readInt();
        if (kind >= Kind.values().length || count < 0 || count > MOST) {
            throw new IOException("A frame of kind " + kind + " with " + count + " bytes is none that is known.");
        }
        byte[] bytes = new byte[count];
        from.readFully(bytes);
        return new Frame(Kind.values()[kind], bytes);
    }
}
