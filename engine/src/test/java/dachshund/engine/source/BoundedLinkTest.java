package dachshund.engine.source;

import static org.assertj.core.api.Assertions.assertThatCode;

import dachshund.core.source.PlantLink;
import java.lang.reflect.Method;
import java.util.Arrays;
import org.junit.jupiter.api.Test;

/** A bounded link asks the one within for everything that a link can do: what is not asked on would be done by nobody. */
final class BoundedLinkTest {

    @Test
    void everythingIsAskedOn() {
        Arrays.stream(PlantLink.class.getMethods())
                .forEach(method -> assertThatCode(() -> asked(method)).doesNotThrowAnyException());
    }

    private static Method asked(Method method) throws NoSuchMethodException {
        return BoundedLink.class.getDeclaredMethod(method.getName(), method.getParameterTypes());
    }
}
