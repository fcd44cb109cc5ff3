package dachshund.engine.journal;

import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.BufferUnderflowException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.Arrays;
import java.util.UUID;

/**
 * A row as the body of an entry: the key of the design it was made under, its identity, record time, place and cells.
 * Installation and recorder stand in the file's head and in the entry's lane.
 */
public final class RowCodec {

    public static final int VERSION = 1;

    /** Design, epoch, sequence, line, record time, length of the place, number of cells. */
    private static final int HEAD = 8 + 8 + 8 + 2 + 12 + 2 + 2;

    private static final int LARGEST_FIXED_CELL = 1 + 16;

    /**
     * A row that was read.
     *
     * @param design key of the design it was made under
     * @param place  the table or file it goes to, as {@link dachshund.core.destination.Place#text}
     */
    public record Decoded(long design, String place, Row row) {}

    /** The bytes are none that this version can read; a sentence. */
    public static final class Unreadable extends RuntimeException {
        private static final long serialVersionUID = 1;

        Unreadable(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    private RowCodec() {}

    public static byte[] write(long design, String place, Row row) {
        Object[] cells = row.cells();
        byte[] where = place.getBytes(StandardCharsets.UTF_8);
        byte[][] inBytes = new byte[cells.length][];
        int size = HEAD + where.length;
        for (int i = 0; i < cells.length; i++) {
            if (cells[i] instanceof String text) {
                inBytes[i] = text.getBytes(StandardCharsets.UTF_8);
            } else if (cells[i] instanceof BigDecimal exact) {
                inBytes[i] = exact.unscaledValue().toByteArray();
            }
            size += LARGEST_FIXED_CELL + (inBytes[i] == null ? 0 : inBytes[i].length);
        }
        ByteBuffer out = ByteBuffer.allocate(size);
        out.putLong(design)
                .putLong(row.id().epoch())
                .putLong(row.id().sequence())
                .putShort((short) row.id().line());
        instant(out, row.recordTime());
        out.putShort((short) where.length).put(where);
        out.putShort((short) cells.length);
        for (int i = 0; i < cells.length; i++) {
            cell(out, cells[i], inBytes[i]);
        }
        return Arrays.copyOf(out.array(), out.position());
    }

    /** @param bytes what a text or an exact number is as bytes; null for others */
    private static void cell(ByteBuffer out, Object cell, byte[] bytes) {
        if (cell == null) {
            out.put((byte) '0');
        } else if (cell instanceof Double number) {
            out.put((byte) 'D').putDouble(number);
        } else if (cell instanceof Long whole) {
            out.put((byte) 'L').putLong(whole);
        } else if (cell instanceof Boolean yes) {
            out.put((byte) (yes ? 'T' : 'F'));
        } else if (cell instanceof Instant time) {
            instant(out.put((byte) 'I'), time);
        } else if (cell instanceof BigDecimal exact) {
            out.put((byte) 'B').putInt(exact.scale()).putInt(bytes.length).put(bytes);
        } else if (cell instanceof LocalDate date) {
            out.put((byte) 'd').putLong(date.toEpochDay());
        } else if (cell instanceof LocalTime time) {
            out.put((byte) 't').putLong(time.toNanoOfDay());
        } else if (cell instanceof UUID uuid) {
            out.put((byte) 'U').putLong(uuid.getMostSignificantBits()).putLong(uuid.getLeastSignificantBits());
        } else if (cell instanceof String) {
            out.put((byte) 'S').putInt(bytes.length).put(bytes);
        } else {
            throw new IllegalArgumentException(
                    "A row holds no " + cell.getClass().getName());
        }
    }

    /** The key of the design alone, without reading the rest. */
    public static long design(Journal.Entry entry) {
        return ByteBuffer.wrap(entry.body()).getLong();
    }

    public static Decoded read(Journal.Entry entry) {
        return read(entry, "");
    }

    /**
     * @param likely the place that it names most likely, which is given back itself then
     * @throws Unreadable with a sentence, where the entry is not one of this version
     */
    public static Decoded read(Journal.Entry entry, String likely) {
        if (entry.kind() != Journal.Kind.ROW.letter() || entry.version() != VERSION) {
            throw new Unreadable(
                    "An entry of the journal is of a kind that this version does not know (" + entry.kind()
                            + entry.version() + ").",
                    null);
        }
        try {
            ByteBuffer in = ByteBuffer.wrap(entry.body());
            long design = in.getLong();
            RowId id = new RowId(
                    entry.installation(), entry.lane(), in.getLong(), in.getLong(), Short.toUnsignedInt(in.getShort()));
            Instant recordTime = instant(in);
            String place = place(in, likely);
            Object[] cells = new Object[Short.toUnsignedInt(in.getShort())];
            for (int i = 0; i < cells.length; i++) {
                cells[i] = cell(in);
            }
            return new Decoded(design, place, new Row(id, recordTime, cells));
        } catch (BufferUnderflowException
                | NegativeArraySizeException
                | IllegalArgumentException
                | java.time.DateTimeException
                | ArithmeticException strange) {
            throw new Unreadable("An entry of the journal cannot be read: " + strange.getMessage(), strange);
        }
    }

    private static String place(ByteBuffer in, String likely) {
        int length = Short.toUnsignedInt(in.getShort());
        int from = in.position();
        boolean same = length == likely.length() && length <= in.remaining();
        for (int i = 0; same && i < length; i++) {
            same = in.get(from + i) == likely.charAt(i) && likely.charAt(i) < 128;
        }
        byte[] bytes = new byte[same ? 0 : length];
        in.get(bytes).position(from + length);
        return same ? likely : new String(bytes, StandardCharsets.UTF_8);
    }

    private static Object cell(ByteBuffer in) {
        int kind = in.get();
        return switch (kind) {
            case '0' -> null;
            case 'T' -> true;
            case 'F' -> false;
            case 'L' -> in.getLong();
            case 'D' -> in.getDouble();
            case 'I' -> instant(in);
            case 'd' -> LocalDate.ofEpochDay(in.getLong());
            case 't' -> LocalTime.ofNanoOfDay(in.getLong());
            case 'U' -> new UUID(in.getLong(), in.getLong());
            case 'B' -> {
                int scale = in.getInt();
                yield new BigDecimal(new BigInteger(bytes(in)), scale);
            }
            case 'S' -> new String(bytes(in), StandardCharsets.UTF_8);
            default -> throw new IllegalArgumentException("a cell is of the unknown kind " + kind);
        };
    }

    private static void instant(ByteBuffer out, Instant time) {
        out.putLong(time.getEpochSecond()).putInt(time.getNano());
    }

    private static Instant instant(ByteBuffer in) {
        return Instant.ofEpochSecond(in.getLong(), in.getInt());
    }

    private static byte[] bytes(ByteBuffer in) {
        int length = in.getInt();
        if (length < 0 || length > in.remaining()) {
            throw new BufferUnderflowException();
        }
        byte[] bytes = new byte[length];
        in.get(bytes);
        return bytes;
    }
}
