package dachshund.web;

import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.ConfigurationPropertiesScan;

/** The application: pages and API around the engine. */
@SpringBootApplication
@ConfigurationPropertiesScan
public class DachshundApplication {

    public static void main(String[] args) {
        SpringApplication.run(DachshundApplication.class, args);
    }
}
