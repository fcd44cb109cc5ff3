package dachshund.web.trend;

import com.fasterxml.jackson.core.JsonFactory;
import com.fasterxml.jackson.core.JsonFactoryBuilder;
import com.fasterxml.jackson.core.JsonGenerator;
import dachshund.core.aggregate.Fold;
import dachshund.core.aggregate.Samples;
import dachshund.core.aggregate.Trouble;
import dachshund.core.time.OpcUaTime;
import dachshund.core.trend.Band;
import dachshund.core.trend.Curve;
import dachshund.core.trend.Stretch;
import dachshund.office.trend.Bands;
import dachshund.office.trend.Trends;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.time.Instant;
import java.util.Base64;
import java.util.function.IntToDoubleFunction;

/**
 * What a trend draws, as its page reads it: an object of JSON in a line for each curve and band, sent as soon as it is there.
 * Each has its id as {@code curve} or {@code band}, and a {@code problem}, a sentence, where there is nothing of it. Times of a
 * curve's points are microseconds since the beginning of what is drawn, all other times seconds since 1970. Points are many:
 * their times and values are numbers of 64 bits (IEEE 754, little end first) in Base64 (RFC 4648), which nobody has to
 * write in digits and to read again (decision 048).
 */
final class DrawnLines implements AutoCloseable {

    private static final JsonFactory JSON =
            new JsonFactoryBuilder().rootValueSeparator("").build();

    private static final int TICKS_A_MICROSECOND = 10;

    private final JsonGenerator json;
    private final long begin;

    /** @param begin of what is drawn */
    DrawnLines(OutputStream to, Instant begin) throws IOException {
        json = JSON.createGenerator(to);
        this.begin = OpcUaTime.toTicks(begin);
    }

    /**
     * Its points, no number where the line breaks; {@code trouble}, the times in which its values were not good: beginning, end, and whether it
     * was bad (2), uncertain (1) or nothing is known (3); and what all of the time comes to, {@code integral} in its unit times hours.
     */
    void curve(Curve curve, Trends.Drawn drawn) throws IOException {
        Samples points = drawn.points();
        json.writeStartObject();
        json.writeStringField("curve", curve.id());
        numbers("times", points.size(), i -> (double) Math.floorDiv(points.time(i) - begin, TICKS_A_MICROSECOND));
        numbers("values", points.size(), i -> points.grade(i) < Samples.BAD ? points.value(i) : Double.NaN);
        json.writeArrayFieldStart("trouble");
        for (Trouble each : drawn.trouble()) {
            json.writeStartArray();
            json.writeNumber(seconds(OpcUaTime.toInstant(each.from())));
            json.writeNumber(seconds(OpcUaTime.toInstant(each.to())));
            json.writeNumber(each.grade());
            json.writeEndArray();
        }
        json.writeEndArray();
        if (drawn.whole().isPresent()) {
            whole(drawn.whole().get(), curve.stepped());
        }
        json.writeStringField("told", drawn.told());
        end("");
    }

    private void whole(Fold whole, boolean stepped) throws IOException {
        json.writeFieldName("least");
        number(whole.least());
        json.writeFieldName("mean");
        number(Trends.mean(whole, stepped));
        json.writeFieldName("greatest");
        number(whole.greatest());
        json.writeFieldName("integral");
        number(Trends.integral(whole, stepped));
        json.writeNumberField("count", whole.count());
    }

    /** Its stretches. */
    void band(Band band, Bands.Drawn drawn) throws IOException {
        json.writeStartObject();
        json.writeStringField("band", band.id());
        json.writeArrayFieldStart("stretches");
        for (Stretch each : drawn.stretches()) {
            json.writeStartObject();
            json.writeNumberField("from", seconds(each.from()));
            json.writeNumberField("to", seconds(each.to()));
            json.writeStringField("name", each.name());
            json.writeEndObject();
        }
        json.writeEndArray();
        json.writeStringField("told", drawn.told());
        end("");
    }

    /** Why there is nothing of one, in a sentence. */
    void noCurve(Curve curve, String problem) throws IOException {
        json.writeStartObject();
        json.writeStringField("curve", curve.id());
        end(problem);
    }

    /** The same of a band. */
    void noBand(Band band, String problem) throws IOException {
        json.writeStartObject();
        json.writeStringField("band", band.id());
        end(problem);
    }

    private void end(String problem) throws IOException {
        json.writeStringField("problem", problem);
        json.writeEndObject();
        json.writeRaw('\n');
        json.flush();
    }

    private void numbers(String name, int many, IntToDoubleFunction each) throws IOException {
        ByteBuffer bits = ByteBuffer.allocate(many * Double.BYTES).order(ByteOrder.LITTLE_ENDIAN);
        for (int i = 0; i < many; i++) {
            bits.putDouble(each.applyAsDouble(i));
        }
        byte[] letters = Base64.getEncoder().encode(bits.array());
        json.writeFieldName(name);
        json.writeRawUTF8String(letters, 0, letters.length);
    }

    private void number(double value) throws IOException {
        if (Double.isFinite(value)) {
            json.writeNumber(value);
        } else {
            json.writeNull();
        }
    }

    private static double seconds(Instant at) {
        return at.getEpochSecond() + at.getNano() / 1e9;
    }

    @Override
    public void close() throws IOException {
        json.close();
    }
}
