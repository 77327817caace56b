CREATE TABLE "jobs" (
	"id" text PRIMARY KEY NOT NULL,
	"asset_id" text NOT NULL,
	"kind" text NOT NULL,
	"document" jsonb NOT NULL,
	"hash" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"sentence" text,
	"forecast_seconds" integer,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "jobs" ADD CONSTRAINT "jobs_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "jobs_state" ON "jobs" USING btree ("state","at");