CREATE TABLE "changes" (
	"asset_id" text NOT NULL,
	"version" integer NOT NULL,
	"client_id" text,
	"seq" integer,
	"kind" text NOT NULL,
	"edit_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "changes_asset_id_version_pk" PRIMARY KEY("asset_id","version")
);
--> statement-breakpoint
CREATE TABLE "leases" (
	"blob" text NOT NULL,
	"owner" text NOT NULL,
	"until" timestamp with time zone NOT NULL,
	CONSTRAINT "leases_blob_owner_pk" PRIMARY KEY("blob","owner")
);
--> statement-breakpoint
CREATE TABLE "results" (
	"name" text PRIMARY KEY NOT NULL,
	"stage" text NOT NULL,
	"inputs" jsonb NOT NULL,
	"figures" jsonb NOT NULL,
	"blobs" jsonb NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "assets" ADD COLUMN "names" jsonb;--> statement-breakpoint
ALTER TABLE "blobs" ADD COLUMN "touched_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "edits" ADD COLUMN "names" jsonb;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "result_name" text;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "snapshot" jsonb;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "forecast_seconds" real;--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_asset_id_assets_id_fk" FOREIGN KEY ("asset_id") REFERENCES "public"."assets"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "changes" ADD CONSTRAINT "changes_edit_id_edits_id_fk" FOREIGN KEY ("edit_id") REFERENCES "public"."edits"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "changes_once" ON "changes" USING btree ("asset_id","client_id","seq");