package dachshund.web.people;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * The right that somebody must have for what a controller does. On a class it is about changes (POST): looking (GET) needs
 * {@link Right#SEE}. On a method it is about that method, whichever it is. What says nothing is refused to everybody.
 */
@Retention(RetentionPolicy.RUNTIME)
@Target({ElementType.TYPE, ElementType.METHOD})
public @interface Needs {
    Right value();
}
