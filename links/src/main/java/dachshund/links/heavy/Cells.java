package dachshund.links.heavy;

import java.io.DataInput;
import java.io.DataOutput;
import java.io.IOException;
import java.math.BigDecimal;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;

/** Cells as bytes: what they are, and their value. */
public final class Cells {

    private static final int NULL = 0;
    private static final int WHOLE = 1;
    private static final int NUMBER = 2;
    private static final int TEXT = 3;
    private static final int EXACT = 4;
    private static final int YES = 5;
    private static final int NO = 6;
    private static final int TIME = 7;
    private static final int DAY = 8;
    private static final int CLOCK = 9;

    private Cells() {}

    public static void write(DataOutput to, Object cell) throws IOException {
        if (cell == null) {
            to.writeByte(NULL);
        } else if (cell instanceof Long whole) {
            to.writeByte(WHOLE);
            to.writeLong(whole);
        } else if (cell instanceof Double number) {
            to.writeByte(NUMBER);
            to.writeDouble(number);
        } else if (cell instanceof BigDecimal exact) {
            exact(to, exact);
        } else if (cell instanceof BigInteger large) {
            exact(to, new BigDecimal(large));
        } else if (cell instanceof Boolean yes) {
            to.writeByte(yes ? YES : NO);
        } else if (cell instanceof Instant time) {
            to.writeByte(TIME);
            to.writeLong(time.getEpochSecond());
            to.writeInt(time.getNano());
        } else if (cell instanceof LocalDate day) {
            to.writeByte(DAY);
            to.writeLong(day.toEpochDay());
        } else if (cell instanceof LocalTime clock) {
            to.writeByte(CLOCK);
            to.writeLong(clock.toNanoOfDay());
        } else {
            to.writeByte(TEXT);
            bytes(to, cell.toString().getBytes(StandardCharsets.UTF_8));
        }
    }

    private static void exact(DataOutput to, BigDecimal exact) throws IOException {
        to.writeByte(EXACT);
        to.writeInt(exact.scale());
        bytes(to, exact.unscaledValue().toByteArray());
    }

    private static void bytes(DataOutput to, byte[] bytes) throws IOException {
        to.writeInt(bytes.length);
        to.write(bytes);
    }

    /** Whole numbers as Long, exact ones as BigDecimal, the others as they were given. */
    public static Object read(DataInput from) throws IOException {
        int kind = from.readUnsignedByte();
        return switch (kind) {
            case NULL -> null;
            case WHOLE -> from.readLong();
            case NUMBER -> from.readDouble();
            case TEXT -> new String(bytes(from), StandardCharsets.UTF_8);
            case EXACT -> {
                int scale = from.readInt();
                yield new BigDecimal(new BigInteger(bytes(from)), scale);
            }
            case YES -> true;
            case NO -> false;
            case TIME -> Instant.ofEpochSecond(from.readLong(), from.readInt());
            case DAY -> LocalDate.ofEpochDay(from.readLong());
            case CLOCK -> LocalTime.ofNanoOfDay(from.readLong());
            default -> throw new IOException("A cell of kind " + kind + " is none that is known.");
        };
    }

    private static byte[] bytes(DataInput from) throws IOException {
        byte[] bytes = new byte[from.readInt()];
        from.readFully(bytes);
        return bytes;
    }
}
