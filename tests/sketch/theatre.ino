// The Lantern Theatre as a sketch: its tables are C, and this is C++.
#include "src/plan/theatre.h"

class Stage {
public:
    void begin() { is_open = theatre_begin(); }
    void poll()
    {
        if (is_open) {
            theatre_poll();
        }
    }

private:
    bool is_open = false;
};

static Stage stage;

void setup()
{
    stage.begin();
}

void loop()
{
    stage.poll();
}
