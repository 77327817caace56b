CREATE TABLE "kept" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "lessons" (
	"id" text PRIMARY KEY NOT NULL,
	"sentence" text NOT NULL,
	"kind" text NOT NULL,
	"subject" text NOT NULL,
	"trial_id" text,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "snags" (
	"id" text PRIMARY KEY NOT NULL,
	"asset_id" text NOT NULL,
	"words" text NOT NULL,
	"minutes" real NOT NULL,
	"place" jsonb,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"done_at" timestamp with time zone,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "spent" (
	"asset_id" text NOT NULL,
	"stage" text NOT NULL,
	"day" text NOT NULL,
	"seconds" real DEFAULT 0 NOT NULL,
	"by_hand" real DEFAULT 0 NOT NULL,
	CONSTRAINT "spent_asset_id_stage_day_pk" PRIMARY KEY("asset_id","stage","day")
);
--> statement-breakpoint
CREATE TABLE "states" (
	"id" text PRIMARY KEY NOT NULL,
	"asset_id" text NOT NULL,
	"name" text NOT NULL,
	"snapshot" jsonb NOT NULL,
	"names" jsonb NOT NULL,
	"thumbnail" text,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "sweeps" (
	"id" text PRIMARY KEY NOT NULL,
	"asset_id" text NOT NULL,
	"stage" text NOT NULL,
	"title" text NOT NULL,
	"axes" jsonb NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "sweep" text;--> statement-breakpoint
ALTER TABLE "jobs" ADD COLUMN "place" jsonb;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "number" serial NOT NULL;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "program" text;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "about" jsonb;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "set_aside" jsonb;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "sweep" text;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "place" jsonb;--> statement-breakpoint
ALTER TABLE "lessons" ADD CONSTRAINT "lessons_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "snags" ADD CONSTRAINT "snags_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "spent" ADD CONSTRAINT "spent_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "states" ADD CONSTRAINT "states_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sweeps" ADD CONSTRAINT "sweeps_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "snags_asset" ON "snags" USING btree ("asset_id");--> statement-breakpoint
CREATE INDEX "trials_at" ON "trials" USING btree ("at");--> statement-breakpoint
CREATE INDEX "trials_sweep" ON "trials" USING btree ("sweep");