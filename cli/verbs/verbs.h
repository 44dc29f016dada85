/* The verbs of the tool, one file each; main.c has a line for each. */
#ifndef DROMIKOS_CLI_VERBS_H
#define DROMIKOS_CLI_VERBS_H

/* The verbs. argv[0] is the verb's name. */
int listen_verb(int argc, char **argv);
int enrol_verb(int argc, char **argv);
int infer_verb(int argc, char **argv);
int rehearse_verb(int argc, char **argv);
int play_verb(int argc, char **argv);
int chart_verb(int argc, char **argv);
int bake_verb(int argc, char **argv);
int vet_verb(int argc, char **argv);
int wave_verb(int argc, char **argv);
int begin_verb(int argc, char **argv);
int ear_verb(int argc, char **argv);

#endif
