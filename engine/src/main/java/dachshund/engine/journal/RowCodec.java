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
 * A row as bytes of the journal: the number of the lane design it was made under, its identity, record time and cells.
 * Installation and recorder are not repeated in each row; the lane design has them.
 */
public final class RowCodec {

    /** Design, epoch, sequence, line, record time, number of cells. */
    private static final int HEAD = 4 + 8 + 8 + 2 + 12 + 2;

    private static final int LARGEST_FIXED_CELL = 1 + 16;

    /** The lane design's number and the row. */
    public record Decoded(int design, Row row) {}

    /** Turns a lane design's number into the identity of its recorder: a row id of which epoch and sequence do not count. */
    @FunctionalInterface
    public interface Designs {
        RowId identity(int design);
    }

    private RowCodec() {}

    /** The number of the lane design alone, without reading the rest. */
    public static int design(byte[] bytes) {
        return ByteBuffer.wrap(bytes).getInt();
    }

    public static byte[] write(int design, Row row) {
        Object[] cells = row.cells();
        byte[][] inBytes = new byte[cells.length][];
        int size = HEAD;
        for (int i = 0; i < cells.length; i++) {
            if (cells[i] instanceof String text) {
                inBytes[i] = text.getBytes(StandardCharsets.UTF_8);
            } else if (cells[i] instanceof BigDecimal exact) {
                inBytes[i] = exact.unscaledValue().toByteArray();
            }
            size += LARGEST_FIXED_CELL + (inBytes[i] == null ? 0 : inBytes[i].length);
        }
        ByteBuffer out = ByteBuffer.allocate(size);
        out.putInt(design)
                .putLong(row.id().epoch())
                .putLong(row.id().sequence())
                .putShort((short) row.id().line());
        instant(out, row.recordTime());
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

    public static Decoded read(byte[] entry, Designs designs) {
        try {
            ByteBuffer in = ByteBuffer.wrap(entry);
            int design = in.getInt();
            RowId owner = designs.identity(design);
            RowId id = new RowId(
                    owner.installation(),
                    owner.recorder(),
                    in.getLong(),
                    in.getLong(),
                    Short.toUnsignedInt(in.getShort()));
            Instant recordTime = instant(in);
            Object[] cells = new Object[Short.toUnsignedInt(in.getShort())];
            for (int i = 0; i < cells.length; i++) {
                cells[i] = cell(in);
            }
            return new Decoded(design, new Row(id, recordTime, cells));
        } catch (BufferUnderflowException shorter) {
            throw new IllegalStateException("An entry of the journal is shorter than it says.", shorter);
        }
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
            default -> throw new IllegalStateException("An entry of the journal holds a cell of unknown kind " + kind);
        };
    }

    private static void instant(ByteBuffer out, Instant time) {
        out.putLong(time.getEpochSecond()).putInt(time.getNano());
    }

    private static Instant instant(ByteBuffer in) {
        return Instant.ofEpochSecond(in.getLong(), in.getInt());
    }

    private static byte[] bytes(ByteBuffer in) {
        byte[] bytes = new byte[in.getInt()];
        in.get(bytes);
        return bytes;
    }
}
