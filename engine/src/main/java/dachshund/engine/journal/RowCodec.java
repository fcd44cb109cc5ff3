package dachshund.engine.journal;

import dachshund.core.row.Row;
import dachshund.core.row.RowId;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.time.Instant;

/**
 * A row as bytes of the journal: the number of the lane design it was made under, its identity, record time and cells.
 * Installation and recorder are not repeated in each row; the lane design has them.
 */
public final class RowCodec {

    /** The lane design's number and the row. */
    public record Decoded(int design, Row row) {
    }

    /** Turns a lane design's number into the identity of its recorder: a row id of which epoch and sequence do not count. */
    @FunctionalInterface
    public interface Designs {
        RowId identity(int design);
    }

    private RowCodec() {
    }

    /** The number of the lane design alone, without reading the rest. */
    public static int design(byte[] bytes) {
        return (bytes[0] & 255) << 24 | (bytes[1] & 255) << 16 | (bytes[2] & 255) << 8 | bytes[3] & 255;
    }

    public static byte[] write(int design, Row row) {
        try {
            ByteArrayOutputStream bytes = new ByteArrayOutputStream(64 + row.cells().length * 10);
            DataOutputStream out = new DataOutputStream(bytes);
            out.writeInt(design);
            out.writeLong(row.id().epoch());
            out.writeLong(row.id().sequence());
            out.writeShort(row.id().line());
            instant(out, row.recordTime());
            out.writeShort(row.cells().length);
            for (Object cell : row.cells()) {
                cell(out, cell);
            }
            return bytes.toByteArray();
        } catch (IOException impossible) {
            throw new UncheckedIOException(impossible);
        }
    }

    private static void cell(DataOutputStream out, Object cell) throws IOException {
        if (cell == null) {
            out.writeByte('0');
        } else if (cell instanceof Boolean b) {
            out.writeByte(b ? 'T' : 'F');
        } else if (cell instanceof Long whole) {
            out.writeByte('L');
            out.writeLong(whole);
        } else if (cell instanceof Double number) {
            out.writeByte('D');
            out.writeDouble(number);
        } else if (cell instanceof Instant time) {
            out.writeByte('I');
            instant(out, time);
        } else if (cell instanceof BigDecimal exact) {
            out.writeByte('B');
            out.writeInt(exact.scale());
            bytes(out, exact.unscaledValue().toByteArray());
        } else if (cell instanceof String text) {
            out.writeByte('S');
            bytes(out, text.getBytes(StandardCharsets.UTF_8));
        } else {
            throw new IllegalArgumentException("A row holds no " + cell.getClass().getName());
        }
    }

    public static Decoded read(byte[] entry, Designs designs) {
        try {
            DataInputStream in = new DataInputStream(new ByteArrayInputStream(entry));
            int design = in.readInt();
            RowId owner = designs.identity(design);
            RowId id = new RowId(owner.installation(), owner.recorder(), in.readLong(), in.readLong(), in.readUnsignedShort());
            Instant recordTime = instant(in);
            Object[] cells = new Object[in.readUnsignedShort()];
            for (int i = 0; i < cells.length; i++) {
                cells[i] = cell(in);
            }
            return new Decoded(design, new Row(id, recordTime, cells));
        } catch (IOException impossible) {
            throw new UncheckedIOException("An entry of the journal is shorter than it says.", impossible);
        }
    }

    private static Object cell(DataInputStream in) throws IOException {
        int kind = in.readByte();
        return switch (kind) {
            case '0' -> null;
            case 'T' -> true;
            case 'F' -> false;
            case 'L' -> in.readLong();
            case 'D' -> in.readDouble();
            case 'I' -> instant(in);
            case 'B' -> {
                int scale = in.readInt();
                yield new BigDecimal(new BigInteger(bytes(in)), scale);
            }
            case 'S' -> new String(bytes(in), StandardCharsets.UTF_8);
            default -> throw new IllegalStateException("An entry of the journal holds a cell of unknown kind " + kind);
        };
    }

    private static void instant(DataOutputStream out, Instant time) throws IOException {
        out.writeLong(time.getEpochSecond());
        out.writeInt(time.getNano());
    }

    private static Instant instant(DataInputStream in) throws IOException {
        return Instant.ofEpochSecond(in.readLong(), in.readInt());
    }

    private static void bytes(DataOutputStream out, byte[] bytes) throws IOException {
        out.writeInt(bytes.length);
        out.write(bytes);
    }

    private static byte[] bytes(DataInputStream in) throws IOException {
        return in.readNBytes(in.readInt());
    }
}
